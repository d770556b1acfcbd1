defineRouteMeta({
  openAPI: {
    tags: ['analysis'],
    summary: 'Sound level: now, equivalent, largest, peak',
    parameters: [
      { in: 'query', name: 'mic', description: 'Channel, from 1', schema: { type: 'string' } },
      { in: 'query', name: 'weighting', description: 'A, C or Z', schema: { type: 'string' } },
      { in: 'query', name: 'time', description: 'fast, slow or impulse', schema: { type: 'string' } },
      { in: 'query', name: 'calibration', description: 'dB added to full scale', schema: { type: 'string' } },
    ],
    requestBody: { required: true, description: 'A WAV file', content: { 'audio/wav': {} } },
    responses: {
      200: { description: 'application/json' },
      400: { description: 'An option is wrong' },
      422: { description: 'The recording cannot be analysed' },
    },
  },
})

export default defineEventHandler(event => answerAnalysis(event, 'level'))
