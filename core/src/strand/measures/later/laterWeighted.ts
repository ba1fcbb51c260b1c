export { LoudnessMeter } from "../../../dsp/level/loudness";
export { AWeightedMeter } from "../../../dsp/level/weighting";
