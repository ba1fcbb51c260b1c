export { LiveBeats, soundBeatsSliced } from "../heardBeats";
