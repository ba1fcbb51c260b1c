export { partsReader } from "./partsReader";
