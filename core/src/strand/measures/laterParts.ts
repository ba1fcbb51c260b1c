export { LiveParts, partSignalSliced } from "../partSignal";
export { partsReader } from "./partsReader";
