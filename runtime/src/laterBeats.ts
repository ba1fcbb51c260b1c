export { soundBeats, soundBeatsSliced } from "@bumbrel/core/strand/measures/heardBeats";
