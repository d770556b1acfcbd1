/** Says again and again that the page is there, also while the page itself has no time for it. */
interface Pulse {
  url: string
  every: number
}

self.onmessage = ({ data: { url, every } }: MessageEvent<Pulse>) => {
  setInterval(async () => {
    try {
      const { status } = await fetch(url, { method: 'PUT' })
      if (status === 404) self.postMessage('ended')
    }
    catch {
      // the server is away: it is told again in a moment, and says itself what has ended
    }
  }, every)
}
