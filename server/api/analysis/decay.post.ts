export default defineEventHandler(event => answerAnalysis(event, 'decay'))
