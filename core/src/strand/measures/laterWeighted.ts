export { AWeightedMeter, LoudnessMeter } from "./weightedMeters";
