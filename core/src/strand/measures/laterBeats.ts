export { soundBeats, soundBeatsSliced } from "./heardBeats";
