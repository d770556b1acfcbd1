export default defineEventHandler(event => answerAnalysis(event, 'transfer'))
