"""Times numpy/scipy: one JSON line {operation, size, rounds, data file} in, one line of median seconds out."""
import json
import sys
import time

import numpy as np
from scipy import fft, signal


def median(job, rounds):
    job()
    times = []
    for _ in range(rounds):
        start = time.perf_counter()
        job()
        times.append(time.perf_counter() - start)
    return sorted(times)[rounds // 2]


for line in sys.stdin:
    ask = json.loads(line)
    data = np.fromfile(ask["file"], dtype="<f4").astype(np.float64)
    size, rounds = ask["size"], ask["rounds"]
    if ask["operation"] == "rfft":
        block = data[:size].copy()
        seconds = median(lambda: fft.rfft(block), rounds)
    elif ask["operation"] == "deconvolve":
        x, y = data[: size // 2], data[size : size + size // 2]

        def deconvolve():
            fx, fy = fft.rfft(x, size), fft.rfft(y, size)
            return fft.irfft(fy * np.conj(fx) / (np.abs(fx) ** 2 + 1e-9), size)

        seconds = median(deconvolve, rounds)
    elif ask["operation"] == "one-pass":
        half = len(data) // 2
        window, hop = signal.get_window("hann", size), size // 4

        def one_pass():
            sxx, syy, sxy = 0, 0, 0
            for at in range(0, half - size + 1, hop):
                fx, fy = fft.rfft(data[at : at + size] * window), fft.rfft(data[half + at : half + at + size] * window)
                sxx, syy, sxy = sxx + np.abs(fx) ** 2, syy + np.abs(fy) ** 2, sxy + np.conj(fx) * fy
            return sxy / sxx, np.abs(sxy) ** 2 / (sxx * syy)

        seconds = median(one_pass, rounds)
    elif ask["operation"] == "convolve":
        response, sound = data[:size].copy(), data[-480_256:].copy()
        seconds = median(lambda: signal.oaconvolve(sound, response), rounds)
    else:
        half = len(data) // 2
        x, y = data[:half], data[half:]
        options = dict(fs=48000, window="hann", nperseg=size, noverlap=size * 3 // 4, detrend=False)

        def transfer():
            sxy = signal.csd(x, y, **options)[1]
            sxx = signal.welch(x, **options)[1]
            return sxy / sxx, signal.coherence(x, y, **options)[1]

        seconds = median(transfer, rounds)
    print(json.dumps(seconds), flush=True)
