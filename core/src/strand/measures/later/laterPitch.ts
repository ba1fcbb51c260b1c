export { pitchAhead, pitchReader } from "../readers/pitchReader";
