/** Code of pages whose scene draws something behind the person of a camera's picture. */
export { FINDER_FILES } from "@bumbrel/core/analyse/needed";
export { PersonFinder } from "../../camera/personFinder";
