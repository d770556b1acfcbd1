export default defineEventHandler(event => answerShape(event, 'fit'))
