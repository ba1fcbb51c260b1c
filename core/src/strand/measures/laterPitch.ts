export { pitchAhead, pitchReader } from "./pitchReader";
