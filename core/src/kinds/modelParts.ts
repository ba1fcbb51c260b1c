import { number, type Property } from "../setting/property";

/** The key of the property that shows and hides a part of a model. */
export const partProperty = (part: string): string => `part:${part}`;

/** Properties of an object that shows a model: each of its parts can be shown and hidden. */
export function modelPartProperties(parts: readonly string[]): Record<string, Property> {
  return Object.fromEntries(
    parts.map((part) => [
      partProperty(part),
      number(part, "", [0, 1, 1], 1, 1, "1 shows this part, 0 hides it.", {
        section: "parts",
        switchesAt: 0.5,
      }),
    ]),
  );
}
