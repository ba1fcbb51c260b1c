/// <reference path="../../n8ao.d.ts" />
/** Ambient occlusion, apart from the rest: its code is loaded by scenes that have any. */
export { N8AOPostPass as OcclusionPass } from "n8ao";
