interface WasmMemory {
  readonly buffer: ArrayBuffer;
}

/** A timer that has been set: a number in browsers, an object in Node. */
export type Timer = { readonly isTimer?: never };

/** Features of the engine that the core needs beside the language itself: browsers, workers and Node all have it. */
interface Platform {
  WebAssembly: {
    Module: new (bytes: Uint8Array) => object;
    Memory: new (size: { initial: number; maximum?: number }) => WasmMemory;
    Instance: new (
      module: object,
      imports: { env: { memory: WasmMemory } },
    ) => { exports: Record<string, (...numbers: number[]) => void> };
  };
  /** Base64 to text, a character a byte. */
  atob(base64: string): string;
  /** Text, a byte a character, to Base64. */
  btoa(text: string): string;
  TextDecoder: new () => { decode(bytes: Uint8Array): string };
  TextEncoder: new () => { encode(text: string): Uint8Array };
  structuredClone<T>(value: T): T;
  setTimeout(carryOut: () => void, ms: number): Timer;
  clearTimeout(timer: Timer | undefined): void;
}

export const platform = globalThis as unknown as Platform;
