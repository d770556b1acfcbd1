/** A refusal by the server in words, with what it sent along. */
export class Refusal extends Error {
  constructor(
    message: string,
    readonly status: number,
    readonly data: unknown,
  ) {
    super(message)
  }
}

/** Tells two people of the same name apart in the history of changes; made once for this browser. */
export function personKey(): string {
  const known = localStorage.getItem('kovrin-person')
  if (known) return known
  const made = crypto.randomUUID()
  localStorage.setItem('kovrin-person', made)
  return made
}

interface Init {
  method?: string
  body?: unknown
  bytes?: BodyInit
}

/** Asks this server. Throws Refusal with the server's own sentence, or one that says the server cannot be reached. */
export async function ask<T>(path: string, init: Init = {}): Promise<T> {
  const answer = await request(path, init)
  return answer.json() as Promise<T>
}

/** Like `ask`, for binary answers. */
export const askBytes = async (path: string): Promise<Uint8Array> =>
  new Uint8Array(await (await request(path, {})).arrayBuffer())

async function request(path: string, { method = 'GET', body, bytes }: Init): Promise<Response> {
  const headers: Record<string, string> = {
    'x-kovrin-who': encodeURIComponent(localStorage.getItem('kovrin-who') ?? 'Technician'),
    'x-kovrin-person': personKey(),
  }
  if (body !== undefined) headers['content-type'] = 'application/json'
  if (bytes !== undefined) headers['content-type'] = 'application/octet-stream'
  const content = bytes ?? (body === undefined ? null : JSON.stringify(body))
  let answer: Response
  try {
    answer = await fetch(path, { method, headers, body: content })
  }
  catch {
    throw new Refusal('Kovrin’s server does not answer. Nothing was changed; try again when it is back.', 0, null)
  }
  if (answer.ok) return answer
  const told = (await answer.json().catch(() => null)) as { message?: string, data?: unknown } | null
  throw new Refusal(told?.message ?? `The server answered ${answer.status}.`, answer.status, told?.data ?? null)
}
