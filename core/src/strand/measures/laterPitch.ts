export { PitchFinder } from "../../dsp/pitch";
