"""Answers the test suite's questions with numpy and scipy: POST /<operation> with a JSON object of arguments."""
import json
import sys
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer

import numpy as np
import scipy
from scipy import fft, signal


def complex_out(values):
    return {"re": np.real(values).tolist(), "im": np.imag(values).tolist()}


def rfft(x):
    return complex_out(fft.rfft(np.array(x)))


def complex_fft(re, im):
    return complex_out(fft.fft(np.array(re) + 1j * np.array(im)))


def window(name, size):
    return signal.get_window(name, size).tolist()


def butterworth(order, kind, f, rate, frequencies):
    sos = signal.butter(order, f, kind, fs=rate, output="sos")
    return complex_out(signal.sosfreqz(sos, np.array(frequencies), fs=rate)[1])


def bessel(order, kind, f, rate, frequencies):
    sos = signal.bessel(order, f, kind, fs=rate, output="sos", norm="mag")
    return complex_out(signal.sosfreqz(sos, np.array(frequencies), fs=rate)[1])


def freqz(b, a, rate, frequencies):
    return complex_out(signal.freqz(b, a, np.array(frequencies), fs=rate)[1])


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


OPERATIONS = {f.__name__: f for f in (rfft, complex_fft, window, butterworth, bessel, freqz, lfilter, spectra, power_spectrum)}


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


server = ThreadingHTTPServer(("127.0.0.1", 0), Service)
print(json.dumps({"port": server.server_port, "scipy": scipy.__version__}), flush=True)
try:
    server.serve_forever()
except KeyboardInterrupt:
    sys.exit(0)
