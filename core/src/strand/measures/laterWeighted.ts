export { LoudnessMeter } from "../../dsp/loudness";
export { AWeightedMeter } from "../../dsp/weighting";
