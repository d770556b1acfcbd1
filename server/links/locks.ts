import pg from 'pg'
import { databaseUrl } from '../store/client'

/**
 * Which of the servers that share a database owns a device's link: advisory locks on a connection of this
 * server's own. When it dies, they
 * are free for the others at once; when the connection is lost, all are lost, and `onLost` says so.
 */
export class Locks {
  private client: pg.Client | null = null
  private readonly held = new Set<string>()

  constructor(private readonly onLost: () => void) {}

  private async connection(): Promise<pg.Client> {
    if (this.client) return this.client
    const made = new pg.Client({ connectionString: databaseUrl() })
    const lost = () => {
      if (this.client !== made) return
      this.client = null
      this.held.clear()
      this.onLost()
    }
    made.on('error', lost)
    made.on('end', lost)
    await made.connect()
    this.client = made
    return made
  }

  /** True when this server owns the name now. */
  async own(name: string): Promise<boolean> {
    if (this.held.has(name)) return true
    const client = await this.connection()
    const { rows } = await client.query<{ got: boolean }>(
      'select pg_try_advisory_lock(hashtextextended($1, 0)) as got',
      [name],
    )
    if (rows[0]?.got) this.held.add(name)
    return rows[0]?.got === true
  }

  async release(name: string): Promise<void> {
    if (!this.held.delete(name)) return
    await this.client?.query('select pg_advisory_unlock(hashtextextended($1, 0))', [name])
  }

  async close() {
    const { client } = this
    this.client = null
    this.held.clear()
    await client?.end().catch(() => {})
  }
}
