"""The levels of 64 mel bands of a WAV file, 100 rows a second, to CSV: what `bumbrel trace --measure fan` does, by SciPy."""

import sys

import numpy as np
import scipy.fft
import scipy.sparse
from scipy.io import wavfile

SIZE, HOP, BANDS, FRAMES_A_TURN = 2048, 480, 64, 2000

rate, sound = wavfile.read(sys.argv[1])
sound = sound.astype(np.float32) / 32768
if sound.ndim > 1:
    sound = sound.mean(axis=1)
window = (0.5 - 0.5 * np.cos(2 * np.pi * np.arange(SIZE) / SIZE)).astype(np.float32)
padded = np.concatenate([np.zeros(SIZE // 2, np.float32), sound, np.zeros(SIZE, np.float32)])


def mel(hz):
    return 2595 * np.log10(1 + hz / 700)


edges = 700 * (10 ** (np.linspace(mel(40), mel(16000), BANDS + 1) / 2595) - 1)
bin_hz = rate / SIZE
bins = np.arange(SIZE // 2 + 1)
low = np.maximum((bins - 0.5) * bin_hz, edges[:-1, None])
high = np.minimum((bins + 0.5) * bin_hz, edges[1:, None])
shares = scipy.sparse.csr_matrix((np.clip(high - low, 0, None) / bin_hz).astype(np.float32))
scale = np.full(SIZE // 2 + 1, 2.0, np.float32)
scale[[0, -1]] = 1
scale /= SIZE * (window**2).sum()

frames = -(-len(sound) // HOP)
windows = np.lib.stride_tricks.sliding_window_view(padded, SIZE)[::HOP][:frames]
levels = np.empty((frames, BANDS), np.float32)
for at in range(0, frames, FRAMES_A_TURN):
    spectra = scipy.fft.rfft(windows[at : at + FRAMES_A_TURN] * window, axis=1, workers=1)
    powers = (spectra.real**2 + spectra.imag**2) * scale
    levels[at : at + FRAMES_A_TURN] = np.sqrt(2 * (shares @ powers.T)).T
np.savetxt(sys.argv[2], np.column_stack([np.arange(frames) / 100, levels]), fmt="%.9g", delimiter=",")
