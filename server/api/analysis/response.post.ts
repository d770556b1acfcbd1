export default defineEventHandler(event => answerShape(event, 'response'))
