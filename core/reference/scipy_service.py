"""Answers the test suite's questions with numpy and scipy: POST /<operation> with a JSON object of arguments."""
import base64
import io
import json
import sys
import time
import wave
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer

import numpy as np
import scipy
from scipy import fft, optimize, signal, stats
from scipy.io import wavfile


def complex_out(values):
    return {"re": np.real(values).tolist(), "im": np.imag(values).tolist()}


def rfft(x):
    return complex_out(fft.rfft(np.array(x)))


def complex_fft(re, im):
    return complex_out(fft.fft(np.array(re) + 1j * np.array(im)))


def envelope(x, size):
    return np.abs(signal.hilbert(np.array(x), size)).tolist()


def resample(x, num):
    return signal.resample(np.array(x), num).tolist()


def window(name, size):
    return signal.get_window(name, size).tolist()


def butterworth(order, kind, f, rate, frequencies):
    sos = signal.butter(order, f, kind, fs=rate, output="sos")
    return complex_out(signal.sosfreqz(sos, np.array(frequencies), fs=rate)[1])


def bessel(order, kind, f, rate, frequencies, norm="mag"):
    sos = signal.bessel(order, f, kind, fs=rate, output="sos", norm=norm)
    return complex_out(signal.sosfreqz(sos, np.array(frequencies), fs=rate)[1])


def freqz(b, a, rate, frequencies):
    return complex_out(signal.freqz(b, a, np.array(frequencies), fs=rate)[1])


def sosfilt(sections, x):
    """Second-order sections given as b0, b1, b2, a1, a2."""
    return signal.sosfilt(np.array([[*s[:3], 1, *s[3:]] for s in sections]), np.array(x)).tolist()


def fit_peaking(frequencies, wanted, bands, rate, gain, q, level, starts=8, seed=1):
    """Peaking filters (Audio EQ Cookbook) nearest to wanted dB by least_squares (trf), the best of some starts."""
    f, y = np.array(frequencies), np.array(wanted)
    lo = np.r_[np.full(bands, np.log(f[0])), np.full(bands, gain[0]), np.full(bands, np.log(q[0])), [-200] * level]
    hi = np.r_[np.full(bands, np.log(f[-1])), np.full(bands, gain[1]), np.full(bands, np.log(q[1])), [200] * level]

    def model(x):
        total = np.full(len(f), x[3 * bands] if level else 0.0)
        for k in range(bands):
            w0, a = 2 * np.pi * np.exp(x[k]) / rate, 10 ** (x[bands + k] / 40)
            al, c = np.sin(w0) / (2 * np.exp(x[2 * bands + k])), -2 * np.cos(w0)
            z = np.exp(-2j * np.pi * f / rate)
            h = (1 + al * a + c * z + (1 - al * a) * z**2) / (1 + al / a + c * z + (1 - al / a) * z**2)
            total = total + 20 * np.log10(np.abs(h))
        return total

    random, best, began = np.random.default_rng(seed), None, time.perf_counter()
    for n in range(starts):
        spread = np.linspace(np.log(f[0]), np.log(f[-1]), bands + 2)[1:-1]
        at = spread if n == 0 else np.sort(random.uniform(lo[0], hi[0], bands))
        g = np.clip(np.interp(at, np.log(f), y), gain[0] + 1e-3, gain[1] - 1e-3)
        x0 = np.r_[at, g, np.full(bands, np.log(np.sqrt(q[0] * q[1]))), [0.0] * level]
        x0 = np.clip(x0, lo + 1e-9, hi - 1e-9)
        got = optimize.least_squares(lambda x: model(x) - y, x0, bounds=(lo, hi), method="trf")
        best = got if best is None or got.cost < best.cost else best
    return {"rms": float(np.sqrt(np.mean(best.fun**2))), "seconds": time.perf_counter() - began}


def align(rate, reference, move, band, delays, polarities, gain, weights):
    """Best delay and polarity by trying all of a grid: energy of the sum against that in phase, mean over positions."""
    began = time.perf_counter()
    r, m = np.array(reference), np.array(move) * gain
    size = 1 << max(10, int(np.ceil(np.log2(r.shape[1]))))
    f = np.arange(size // 2 + 1) * rate / size
    inside = (f >= band[0]) & (f <= band[1])
    fr, fm, f = fft.rfft(r, size)[:, inside], fft.rfft(m, size)[:, inside], f[inside]
    ideal = np.sum((np.abs(fr) + np.abs(fm)) ** 2, axis=1)
    weights = np.array(weights) / np.sum(weights)
    best = (-1.0, 0.0, 1)
    for polarity in polarities:
        for delay in np.arange(delays[2]) * delays[1] + delays[0]:
            turned = polarity * fm * np.exp(-2j * np.pi * f * delay)
            score = float(np.sum(weights * np.sum(np.abs(fr + turned) ** 2, axis=1) / ideal))
            if score > best[0]:
                best = (score, float(delay), polarity)
    return {"score": best[0], "delay": best[1], "polarity": best[2], "seconds": time.perf_counter() - began}


def butter_band(order, low, high, rate, frequencies):
    sos = signal.butter(order, [low, high], "bandpass", fs=rate, output="sos")
    return complex_out(signal.sosfreqz(sos, np.array(frequencies), fs=rate)[1])


def deconvolve(x, y, size, floor):
    """Circular response of y over x by division of spectra, floor relative to the strongest bin."""
    fx, fy = fft.rfft(np.array(x), size), fft.rfft(np.array(y), size)
    power = np.abs(fx) ** 2
    return fft.irfft(fy * np.conj(fx) / (power + floor * power.max()), size).tolist()


def write_wav(kind, rate, channels):
    """A WAV file by scipy (24 bit by Python's own wave module) as base64."""
    x, out = np.array(channels).T, io.BytesIO()
    if kind == "pcm24":
        with wave.open(out, "wb") as f:
            f.setparams((x.shape[1], 3, rate, 0, "NONE", ""))
            f.writeframes(b"".join(int(v).to_bytes(3, "little", signed=True) for v in np.round(x * 2**23).astype(int).ravel()))
    else:
        kinds = {"pcm8": lambda: np.round(x * 128 + 128).astype(np.uint8), "pcm16": lambda: np.round(x * 2**15).astype(np.int16), "pcm32": lambda: np.round(x * 2**31).astype(np.int32), "float32": lambda: x.astype(np.float32), "float64": lambda: x}
        wavfile.write(out, rate, kinds[kind]())
    return base64.b64encode(out.getvalue()).decode()


def read_wav(data):
    """Channels of a WAV file as scipy reads them, full scale 1."""
    rate, x = wavfile.read(io.BytesIO(base64.b64decode(data)))
    scale = {np.dtype(np.int16): 2**15, np.dtype(np.int32): 2**31}.get(x.dtype, 1)
    return {"rate": rate, "channels": (x.reshape(len(x), -1).T / scale).tolist()}


def group_delay(b, a, rate, frequencies):
    return signal.group_delay((b, a), np.array(frequencies), fs=rate)[1].tolist()


def lfilter(b, a, x):
    return signal.lfilter(b, a, np.array(x)).tolist()


def spectra(x, y, rate, length, overlap):
    """Welch spectra, H1 = Sxy / Sxx and coherence, no detrending."""
    x, y = np.array(x), np.array(y)
    options = dict(fs=rate, window="hann", nperseg=length, noverlap=overlap, detrend=False)
    sxy = signal.csd(x, y, **options)[1]
    sxx = signal.welch(x, **options)[1]
    return {**complex_out(sxy / sxx), "coherence": signal.coherence(x, y, **options)[1].tolist()}


def power_spectrum(x, rate, length):
    f, p = signal.welch(np.array(x), fs=rate, window="hann", nperseg=length)
    return {"frequencies": f.tolist(), "power": p.tolist()}


def air_loss(frequencies, temperature, humidity, pressure):
    """ISO 9613-1: attenuation coefficient in dB/m, eqs (3) to (5) and annex B, written from the standard's own symbols."""
    f = np.array(frequencies, float)
    kelvin, t01, t0, pr, pa = temperature + 273.15, 273.16, 293.15, 101.325, pressure
    c_sat = -6.8346 * np.power(t01 / kelvin, 1.261) + 4.6151
    h = humidity * np.power(10.0, c_sat) * (pr / pa)
    fr_o = (pa / pr) * (24 + 4.04e4 * h * (0.02 + h) / (0.391 + h))
    fr_n = (pa / pr) * np.power(kelvin / t0, -0.5) * (9 + 280 * h * np.exp(-4.170 * (np.power(kelvin / t0, -1 / 3) - 1)))
    classical = 1.84e-11 * (pr / pa) * np.power(kelvin / t0, 0.5)
    oxygen = 0.01275 * np.exp(-2239.1 / kelvin) * fr_o / (fr_o**2 + f**2)
    nitrogen = 0.1068 * np.exp(-3352.0 / kelvin) * fr_n / (fr_n**2 + f**2)
    nepers = np.square(f) * (classical + np.power(kelvin / t0, -2.5) * (oxygen + nitrogen))
    return (nepers * 20 / np.log(10)).tolist()


def fisher(q, d1, d2):
    return float(stats.f.ppf(q, d1, d2))


OPERATIONS = {f.__name__: f for f in (air_loss, align, fisher, fit_peaking, envelope, resample, group_delay, read_wav, write_wav, butter_band, deconvolve, rfft, complex_fft, window, butterworth, bessel, freqz, lfilter, sosfilt, spectra, power_spectrum)}


class Service(BaseHTTPRequestHandler):
    def do_POST(self):
        arguments = json.loads(self.rfile.read(int(self.headers["Content-Length"])))
        try:
            status, answer = 200, OPERATIONS[self.path[1:]](**arguments)
        except Exception as error:  # told to the test that asked
            status, answer = 400, {"error": repr(error)}
        body = json.dumps(answer).encode()
        self.send_response(status)
        self.send_header("Content-Length", str(len(body)))
        self.end_headers()
        self.wfile.write(body)

    def log_message(self, *_):
        pass


if __name__ == "__main__":
    server = ThreadingHTTPServer(("127.0.0.1", 0), Service)
    print(json.dumps({"port": server.server_port, "scipy": scipy.__version__}), flush=True)
    try:
        server.serve_forever()
    except KeyboardInterrupt:
        sys.exit(0)
