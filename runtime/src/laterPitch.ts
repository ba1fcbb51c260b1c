export { PitchFinder } from "@bumbrel/core/dsp/pitch";
