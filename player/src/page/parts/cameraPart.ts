/** Code of pages whose scene is seen through a camera. */
export { RealCamera } from "../../camera/realCamera";
export { PhoneVisit } from "../../visit/phoneVisit";
