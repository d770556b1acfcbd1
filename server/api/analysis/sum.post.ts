export default defineEventHandler(event => answerParts(event, 'sum'))
