import { tmpdir } from "node:os";
import { join } from "node:path";

/** File that stands in for the microphone; the test writes it before it opens the device. */
export const MICROPHONE_WAV = join(tmpdir(), "bumbrel-microphone.wav");
export const MICROPHONE_HZ = 1000;
export const MICROPHONE_DB = -12;
