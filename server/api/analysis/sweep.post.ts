defineRouteMeta({
  openAPI: {
    tags: ['analysis'],
    summary: 'Impulse response, signal-to-noise, harmonics, decay times and STI of a recorded exponential sweep',
    parameters: [
      { in: 'query', name: 'mic', description: 'Channel of the microphone, from 1', schema: { type: 'string' } },
      { in: 'query', name: 'ref', description: 'Channel of the reference', schema: { type: 'string' } },
      { in: 'query', name: 'low', description: 'Lowest frequency of the sweep, Hz', schema: { type: 'string' } },
      { in: 'query', name: 'high', description: 'Highest frequency of the sweep, Hz', schema: { type: 'string' } },
      { in: 'query', name: 'seconds', description: 'Length of the sweep', schema: { type: 'string' } },
      { in: 'query', name: 'longest', description: 'Seconds of response to keep', schema: { type: 'string' } },
      {
        in: 'query',
        name: 'part',
        description: 'Decay bands of 1/part octave: 1 or 3',
        schema: { type: 'string' },
      },
      { in: 'query', name: 'answer', description: 'json or wav', schema: { type: 'string' } },
    ],
    requestBody: { required: true, description: 'A WAV file', content: { 'audio/wav': {} } },
    responses: {
      200: { description: 'application/json, or with answer=wav the impulse response as audio/wav (32-bit float)' },
      400: { description: 'An option is wrong' },
      422: { description: 'The recording cannot be analysed' },
    },
  },
})

export default defineEventHandler(event => answerAnalysis(event, 'sweep'))
