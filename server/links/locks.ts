import pg from 'pg'
import { databaseUrl } from '../store/client'

/** A database that hangs must not stop the looking at devices for good. */
const patience = { connectionTimeoutMillis: 5000, query_timeout: 10_000, keepAlive: true }

/**
 * Which of the servers that share a database owns a device's link: advisory locks on a connection of this
 * server's own. When it dies, they
 * are free for the others at once; when the connection is lost, all are lost, and `onLost` says so.
 */
export class Locks {
  private client: pg.Client | null = null
  private readonly held = new Set<string>()

  constructor(private readonly onLost: () => void, private readonly limits: pg.ClientConfig = patience) {}

  private async connection(): Promise<pg.Client> {
    if (this.client) return this.client
    const made = new pg.Client({ connectionString: databaseUrl(), ...this.limits })
    made.on('error', () => this.lose(made))
    made.on('end', () => this.lose(made))
    await made.connect()
    this.client = made
    return made
  }

  private lose(client: pg.Client) {
    if (this.client !== client) return
    this.client = null
    this.held.clear()
    this.onLost()
    client.end().catch(() => {})
  }

  /** What gets no answer leaves open what is owned: the connection goes, and all its locks with it. */
  private async ask<T extends pg.QueryResultRow>(client: pg.Client, text: string, name: string): Promise<T[]> {
    try {
      return (await client.query<T>(text, [name])).rows
    }
    catch (error) {
      this.lose(client)
      throw error
    }
  }

  /** True when this server owns the name now. */
  async own(name: string): Promise<boolean> {
    if (this.held.has(name)) return true
    const client = await this.connection()
    const [row] = await this.ask<{ got: boolean }>(
      client, 'select pg_try_advisory_lock(hashtextextended($1, 0)) as got', name)
    if (!row?.got || this.client !== client) return false
    this.held.add(name)
    return true
  }

  async release(name: string): Promise<void> {
    if (!this.held.delete(name)) return
    if (this.client) await this.ask(this.client, 'select pg_advisory_unlock(hashtextextended($1, 0))', name)
  }

  async close() {
    const { client } = this
    this.client = null
    this.held.clear()
    await client?.end().catch(() => {})
  }
}
