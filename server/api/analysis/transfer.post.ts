defineRouteMeta({
  openAPI: {
    tags: ['analysis'],
    summary: 'Transfer function with coherence of a two-channel recording',
    parameters: [
      { in: 'query', name: 'mic', description: 'Channel of the microphone, from 1', schema: { type: 'string' } },
      { in: 'query', name: 'ref', description: 'Channel of the reference', schema: { type: 'string' } },
      {
        in: 'query',
        name: 'length',
        description: 'Block length 1024 to 131072, or multi',
        schema: { type: 'string' },
      },
      {
        in: 'query',
        name: 'blocks',
        description: 'Running mean of so many blocks, 1 to 64; all unless given',
        schema: { type: 'string' },
      },
      { in: 'query', name: 'magnitude', description: 'complex or power', schema: { type: 'string' } },
      {
        in: 'query',
        name: 'window',
        description: 'hann, blackman-harris or rectangular',
        schema: { type: 'string' },
      },
      { in: 'query', name: 'smoothing', description: 'Parts of an octave, 1 to 48', schema: { type: 'string' } },
      { in: 'query', name: 'delay', description: 'auto, or milliseconds', schema: { type: 'string' } },
    ],
    requestBody: { required: true, description: 'A WAV file', content: { 'audio/wav': {} } },
    responses: {
      200: {
        description:
          'text/csv: frequency_hz, magnitude_db, phase_deg, coherence; the arrival in x-kovrin-arrival-ms',
      },
      400: { description: 'An option is wrong' },
      422: { description: 'The recording cannot be analysed' },
    },
  },
})

export default defineEventHandler(event => answerAnalysis(event, 'transfer'))
