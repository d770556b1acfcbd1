defineRouteMeta({
  openAPI: {
    tags: ['analysis'],
    summary: 'Level per fractional-octave band',
    parameters: [
      { in: 'query', name: 'mic', description: 'Channel, from 1', schema: { type: 'string' } },
      {
        in: 'query',
        name: 'part',
        description: 'Bands of 1/part octave: 1, 3, 6, 12, 24',
        schema: { type: 'string' },
      },
    ],
    requestBody: { required: true, description: 'A WAV file', content: { 'audio/wav': {} } },
    responses: {
      200: { description: 'application/json, dBFS' },
      400: { description: 'An option is wrong' },
      422: { description: 'The recording cannot be analysed' },
    },
  },
})

export default defineEventHandler(event => answerAnalysis(event, 'bands'))
