/** All that rigid bodies need: loaded only by scenes that have some. */
export { default as physics } from "@dimforge/rapier3d-deterministic-compat";
export { Bodies } from "./bodies";
