declare module "gltf-validator" {
  export function validateBytes(
    bytes: Uint8Array,
    options?: { maxIssues?: number },
  ): Promise<{
    issues: {
      numErrors: number;
      numWarnings: number;
      messages: { code: string; message: string; severity: number; pointer?: string }[];
    };
  }>;
  const validator: { validateBytes: typeof validateBytes };
  export default validator;
}
