export default defineEventHandler(event => answerAnalysis(event, 'bands'))
