interface Operation {
  summary?: string
  tags?: string[]
  parameters?: { in: string, name: string, description?: string }[]
  responses?: Record<string, { description?: string }>
  requestBody?: { description?: string }
}
type Document = { info: { title: string, description?: string }, paths: Record<string, Record<string, Operation>> }

const safe = (text: string) =>
  text.replace(/[&<>"]/g, c => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' })[c]!)

/** The HTTP interface as a page, from the OpenAPI document that is generated from the routes. */
export default defineEventHandler(async (event) => {
  const { info, paths } = await event.$fetch<Document>('/api/openapi.json')
  const rows = Object.entries(paths)
    .filter(([path]) => path.startsWith('/api/'))
    .sort(([a], [b]) => (a < b ? -1 : 1))
    .flatMap(([path, methods]) =>
      Object.entries(methods).map(
        ([method, o]) => `
    <section><h2><code>${method.toUpperCase()} ${safe(path)}</code></h2>
    ${o.summary ? `<p>${safe(o.summary)}</p>` : ''}${o.requestBody?.description ? `<p>Body: ${safe(o.requestBody.description)}</p>` : ''}
    ${o.parameters?.length ? `<table>${o.parameters.map(p => `<tr><td><code>${safe(p.name)}</code></td><td>${p.in}</td><td>${safe(p.description ?? '')}</td></tr>`).join('')}</table>` : ''}
    ${Object.entries(o.responses ?? {})
      .map(([code, r]) => (r.description ? `<p><b>${code}</b> ${safe(r.description)}</p>` : ''))
      .join('')}</section>`,
      ),
    )
  setResponseHeader(event, 'content-type', 'text/html; charset=utf-8')
  return `<!doctype html><html lang="en"><meta charset="utf-8"><title>${safe(info.title)} over HTTP</title>
  <style>body{font:16px/1.5 sans-serif;max-width:60rem;margin:2rem auto;padding:0 1rem;background:#f6f1e3;color:#1f2623}section{border-top:1px solid #cfc5ab;padding:.5rem 0}h2{font-size:1.05rem;margin:.3rem 0}p{margin:.3rem 0}td{padding:0 1.2rem 0 0;vertical-align:top}</style>
  <h1>${safe(info.title)} over HTTP</h1><p>${safe(info.description ?? '')} As a document for tools: <a href="/api/openapi.json">/api/openapi.json</a>.</p>${rows.join('')}</html>`
})
