export { LiveParts, partSignalSliced } from "../../hearing/partSignal";
export { partsReader } from "../readers/partsReader";
