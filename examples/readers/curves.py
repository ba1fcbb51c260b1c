"""Reads Bumbrel's baked curves (docs/curves.md): strands at 100 numbers a second, with their cues.

    python3 curves.py numbers.curves 0.5 1.25

Python 3.8 or later, nothing else.
"""
import struct
import sys
import zlib

STEPS = 65535


class Curve:
    def __init__(self, ident, name, width, values, loop_s, cues):
        self.id, self.name, self.width = ident, name, width
        self.values = values  # a list of numbers for each band
        self.loop_s, self.cues = loop_s, cues  # cues: (time in seconds, strength)

    def at(self, time_s, band=0):
        """The number at a time: a straight line between frames, the ends beyond them, or round again."""
        numbers = self.values[band]
        if not numbers:
            return 0.0
        if self.loop_s > 0 and time_s > 0:
            time_s %= self.loop_s
        place = min(max(time_s * 100, 0.0), len(numbers) - 1)
        frame = int(place)
        after = numbers[min(frame + 1, len(numbers) - 1)]
        return numbers[frame] + (after - numbers[frame]) * (place - frame)


def read_curves(data):
    """Gives (seconds of the tape, list of Curve). Raises ValueError for bytes that are no whole file of curves."""
    if len(data) < 24 or data[:8] != b"BMBRLCRV":
        raise ValueError("this is no file of curves")
    version, count, length_s = struct.unpack_from("<HHd", data, 8)
    if version != 1:
        raise ValueError(f"its version is {version}, not 1")
    if zlib.crc32(data[:-4]) != struct.unpack_from("<I", data, len(data) - 4)[0]:
        raise ValueError("it is cut off or was changed")
    curves, start = [], 20
    for _ in range(count):
        size, id_n, name_n, width, order, frames, cue_n, low, high, loop_s = struct.unpack_from("<IHHHHIIfff", data, start)
        name_at = start + 32 + id_n
        at = start + 32 + (id_n + name_n + 3) // 4 * 4
        cues = [struct.unpack_from("<df", data, at + 12 * i) for i in range(cue_n)]
        at += 12 * cue_n
        values = []
        for _band in range(width):
            before = before_that = 0
            numbers = []
            for frame in range(frames):
                rest = data[at + frame] | data[at + frames + frame] << 8
                told = (0, before, 2 * before - before_that)[order]
                now = (told + ((rest >> 1) ^ -(rest & 1))) & 0xFFFF
                numbers.append(low + (high - low) * now / STEPS)
                before, before_that = now, before
            values.append(numbers)
            at += 2 * frames
        ident, name = data[start + 32 : name_at].decode(), data[name_at : name_at + name_n].decode()
        curves.append(Curve(ident, name, width, values, loop_s, cues))
        start += size
    return length_s, curves


if __name__ == "__main__":
    with open(sys.argv[1], "rb") as file:
        try:
            _, found = read_curves(file.read())
        except ValueError as why:
            sys.exit(f"{sys.argv[1]}: {why}")
    for curve in found:
        numbers = [curve.at(float(time), band) for time in sys.argv[2:] for band in range(curve.width)]
        row = [curve.name, curve.width, len(curve.values[0]), len(curve.cues)]
        row += [f"{number:.9g}" for number in numbers] + [f"{time:.9g}:{strength:.9g}" for time, strength in curve.cues]
        print(*row, sep="\t")
