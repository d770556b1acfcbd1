/** What an analysis answers: text or bytes, and headers that go with it. */
export interface AnalysisAnswer {
  type: string
  body: string | Uint8Array
  headers: Record<string, string>
}
