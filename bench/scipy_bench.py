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
