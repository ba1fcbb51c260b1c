/** The worked examples, in the order in which they are offered. */
export const EXAMPLE_LIST = [
  { id: "regatta-night", name: "Regatta Night", help: "Lantern boats on the water, moved by a band" },
  { id: "tuning-shed", name: "Tuning Shed", help: "Tones and noises as charts in a boat shed" },
  { id: "fog-bell", name: "Fog Bell", help: "A quay to walk along, with music in its houses" },
  { id: "ferry-card", name: "Ferry Card", help: "Rings of light behind a person, for a phone's camera" },
  { id: "slipway", name: "Slipway", help: "A dome of lamps and buoys to strike, for a headset" },
] as const;

/** Name of a worked example in addresses, folders and pictures. */
export type ExampleId = (typeof EXAMPLE_LIST)[number]["id"];
