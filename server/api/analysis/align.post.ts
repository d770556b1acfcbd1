export default defineEventHandler(event => answerParts(event, 'align'))
