defineRouteMeta({
  openAPI: {
    tags: ['analysis'],
    summary: 'Decay times (EDT, T20, T30), C50, C80, D50 per band and STI of an impulse response',
    parameters: [
      { in: 'query', name: 'mic', description: 'Channel, from 1', schema: { type: 'string' } },
      { in: 'query', name: 'part', description: 'Bands of 1/part octave: 1 or 3', schema: { type: 'string' } },
    ],
    requestBody: { required: true, description: 'A WAV file', content: { 'audio/wav': {} } },
    responses: {
      200: { description: 'application/json' },
      400: { description: 'An option is wrong' },
      422: { description: 'The recording cannot be analysed' },
    },
  },
})

export default defineEventHandler(event => answerAnalysis(event, 'decay'))
