/** How the numbers lie that programs read: the same in textures and in sandboxes. */

/** Seconds that strands, fans and spectra are remembered by programs. */
export const REMEMBERED_S = 10;

/** Rows of the textures of numbers: one for each hundredth of a second. */
export const MEMORY_ROWS = 1024;
/** Columns of the texture of strands and fans, and bands of a spectrum. */
export const MEMORY_COLUMNS = 512;
/** Sounds whose spectra and waveforms programs can read at once. */
export const MOST_SOUNDS = 2;
/** Samples of a waveform around now. */
export const WAVE_SAMPLES = 1024;
/** Lowest and highest frequency of the spectra of programs, Hz; their bands lie evenly in octaves. */
export const [SPECTRUM_LOW_HZ, SPECTRUM_HIGH_HZ] = [20, 20_000];

/** Numbers that each exposed value of a script is passed in. */
export const VALUE_NUMBERS = 3;

/** Samples in a spectrum that programs read; its window is Hann. */
export const SPECTRUM_FFT_SIZE = 2048;
