interface Described {
  description?: string
}
interface Operation {
  summary?: string
  parameters?: { in: string, name: string, schema?: { enum?: string[] } }[]
  requestBody?: Described & { content?: Record<string, { schema: unknown }> }
  responses?: Record<string, Described & { content?: Record<string, { schema: unknown }> }>
}

const marks: Record<string, string> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' }
const safe = (text: string) => text.replace(/[&<>"]/g, c => marks[c]!)
const style = `body{font:16px/1.5 sans-serif;max-width:60rem;margin:2rem auto;padding:0 1rem}
body{background:#f6f1e3;color:#1f2623}
section{border-top:1px solid #cfc5ab;padding:.5rem 0}h2{font-size:1.05rem;margin:.3rem 0}p{margin:.3rem 0}
td{padding:0 1.2rem 0 0;vertical-align:top}
pre{overflow:auto;max-height:20rem;background:#ece5d0;padding:.5rem;font-size:.85rem}`

const schemas = (title: string, content: Record<string, { schema: unknown }> | undefined) => {
  const json = content?.['application/json']?.schema
  if (!json) return ''
  return `<details><summary>${title}</summary><pre>${safe(JSON.stringify(json, null, 1))}</pre></details>`
}

function section(
  method: string,
  path: string,
  { summary, parameters = [], requestBody, responses = {} }: Operation,
): string {
  const values = (p: (typeof parameters)[number]) => safe(p.schema?.enum?.join(', ') ?? '')
  const rows = parameters.map(p =>
    `<tr><td><code>${safe(p.name)}</code></td><td>${p.in}</td><td>${values(p)}</td></tr>`)
  const answers = Object.entries(responses).map(
    ([code, r]) => `<p><b>${code}</b> ${safe(r.description ?? '')}</p>${schemas('what it answers', r.content)}`,
  )
  return `<section><h2><code>${method.toUpperCase()} ${safe(path)}</code></h2><p>${safe(summary ?? '')}</p>
${rows.length ? `<table>${rows.join('')}</table>` : ''}
${requestBody?.description ? `<p>Body: ${safe(requestBody.description)}</p>` : ''}
${schemas('body', requestBody?.content)}
${answers.join('')}</section>`
}

/** The HTTP interface as a page, from its OpenAPI document. */
export function docsPage(document: Record<string, unknown>): string {
  const { info, paths } = document as {
    info: { title: string, description: string }
    paths: Record<string, Record<string, Operation>>
  }
  const sections = Object.entries(paths).flatMap(([path, methods]) =>
    Object.entries(methods).map(([method, operation]) => section(method, path, operation)),
  )
  return `<!doctype html><html lang="en"><meta charset="utf-8"><title>${safe(info.title)} over HTTP</title>
<style>${style}</style>
<h1>${safe(info.title)} over HTTP</h1>
<p>${safe(info.description)} As a document for tools: <a href="/api/openapi.json">/api/openapi.json</a>.</p>
${sections.join('')}</html>`
}
