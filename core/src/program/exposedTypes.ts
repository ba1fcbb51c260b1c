/** Types that a value of a program can have, and what each is called in GLSL and in TypeScript. */
export const EXPOSED_TYPES = {
  number: { glsl: "float", script: "number", help: "A number: low to high, default, unit." },
  whole: { glsl: "int", script: "Whole", help: "A whole number: low to high, default." },
  choice: { glsl: "int", script: "Choice", help: "One of some words: one | another, default." },
  switch: { glsl: "bool", script: "boolean", help: "On or off: default on or off." },
  colour: { glsl: "vec3", script: "Colour", help: "A colour: default #rrggbb." },
  vector: { glsl: "vec3", script: "Vector", help: "Three numbers: low to high, default x y z, unit." },
  picture: { glsl: "sampler2D", script: "Picture", help: "An image of the project." },
  strand: { glsl: "Strand", script: "Strand", help: "A strand, chosen where the program is used." },
  fan: { glsl: "Fan", script: "Fan", help: "A fan, chosen where the program is used." },
  sound: { glsl: "Sound", script: "Sound", help: "A sound, chosen where the program is used." },
} as const;
export type ExposedType = keyof typeof EXPOSED_TYPES;

export type ProgramLanguage = "glsl" | "script";
