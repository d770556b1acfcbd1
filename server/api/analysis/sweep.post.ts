export default defineEventHandler(event => answerAnalysis(event, 'sweep'))
