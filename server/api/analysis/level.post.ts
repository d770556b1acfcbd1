export default defineEventHandler(event => answerAnalysis(event, 'level'))
