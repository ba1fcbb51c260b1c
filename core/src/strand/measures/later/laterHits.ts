export { hitReader, rangeOfLearnt } from "../readers/hitReader";
