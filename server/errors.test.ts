import { describe, expect, it } from 'vitest'
import { operationsAt } from '../core/contract'
import { answerOf } from './errors'
import { message } from '../core/words'
import { refused } from './utils/refused'

describe('what whoever asks is told of a failure', () => {
  it.each([
    ['the server cannot be reached', Object.assign(new Error('connect'), { code: 'ECONNREFUSED' })],
    ['it was stopped by its keeper', Object.assign(new Error('bye'), { code: '57P01' })],
    ['it is starting', Object.assign(new Error('wait'), { code: '57P03' })],
    ['the connection broke in the middle of a query', new Error('Failed query', {
      cause: new Error('Connection terminated unexpectedly'),
    })],
    ['all its connections are taken', new Error('timeout exceeded when trying to connect')],
    ['neither of two addresses answers', new AggregateError([
      Object.assign(new Error('::1'), { code: 'ECONNREFUSED' }),
    ])],
  ])('a database that is away is said, and that it is not known how far this got: %s', (_, error) => {
    const { statusCode, message } = answerOf(error)
    expect(statusCode).toBe(503)
    expect(message).toMatch(/database does not answer.*Look whether it was done/)
  })
  // PostgreSQL 15, Appendix A: class 22 is a data exception, 53100 a full disk
  it.each([
    ['22003', 422, /value in it cannot be kept/],
    ['22P05', 422, /value in it cannot be kept/],
    ['53100', 507, /disk of the database is full: nothing was stored/],
    ['23505', 500, /does not know how far/],
  ])('what the database itself refuses is told apart: %s', (code, status, words) => {
    const told = answerOf(new Error('Failed query', { cause: Object.assign(new Error('no'), { code }) }))
    expect(told).toMatchObject({ statusCode: status, message: expect.stringMatching(words) })
  })
  it('what nobody foresaw does not tell its inner words', () => {
    const told = answerOf(new TypeError('x is not a function'))
    expect(told.statusCode).toBe(500)
    expect(told.message).not.toContain('function')
  })
  it('a refusal keeps its sentence and what came along', () => {
    const error = refused(409, message('edit.parameterOvertaken', { parameter: 'Output 1 gain' }), [1])
    expect(answerOf(error)).toEqual({
      statusCode: 409,
      code: 'edit.parameterOvertaken',
      values: { parameter: 'Output 1 gain' },
      message: 'Output 1 gain was changed meanwhile.',
      data: [1],
    })
  })
  it('what was thrown without a code tells its words', () => {
    const error = Object.assign(new Error('No such page.'), { statusCode: 404 })
    const words = 'No such page.'
    expect(answerOf(error)).toEqual({ statusCode: 404, ...message('words', { text: words }), message: words })
  })
})

describe('what can be asked at an address', () => {
  it('is told by method, with and without a slash at the end', () => {
    expect(Object.keys(operationsAt('/api/sites'))).toEqual(['get', 'post'])
    expect(Object.keys(operationsAt('/api/sites/'))).toEqual(['get', 'post'])
    expect(Object.keys(operationsAt('/api/sites/a-site/leases/7'))).toEqual(['put', 'delete'])
  })
  it('is nothing beside the table', () => {
    for (const path of ['/api', '/api/site', '/api/sites/a/b/c', '/api/openapiXjson', '/api/sites//changes'])
      expect(operationsAt(path)).toEqual({})
  })
})
