export { hitReader, rangeOfLearnt } from "./hitReader";
