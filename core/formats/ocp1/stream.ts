import { headerBytes, mostBytes, readHeader, readMessage, type OcpMessage } from './messages'

/**
 * Messages out of a stream of bytes in pieces of any size (of one byte, several messages at once). `push` gives what
 * is whole and keeps at most one message that is not. What is no message ends the stream: `push` throws a refusal
 * with the reason then and ever after, and the connection is to be closed.
 */
export class MessageStream {
  private pieces: Uint8Array[] = []
  private length = 0
  /** Bytes that are needed before anything can be said. */
  private wanted = headerBytes
  private failed: unknown = null
  constructor(private readonly most = mostBytes) {}

  push(piece: Uint8Array): OcpMessage[] {
    if (this.failed !== null) throw this.failed
    this.pieces.push(piece)
    this.length += piece.length
    if (this.length < this.wanted) return []
    try {
      return this.read()
    }
    catch (error) {
      this.failed = error
      this.pieces = []
      throw error
    }
  }

  private read(): OcpMessage[] {
    const bytes = this.pieces.length === 1 ? this.pieces[0]! : joined(this.pieces, this.length)
    const found: OcpMessage[] = []
    let at = 0
    this.wanted = headerBytes
    while (bytes.length - at >= headerBytes) {
      const { total } = readHeader(bytes.subarray(at, at + headerBytes), this.most)
      if (bytes.length - at < total) {
        this.wanted = total
        break
      }
      found.push(readMessage(bytes.subarray(at, at + total), this.most))
      at += total
    }
    this.length = bytes.length - at
    this.pieces = this.length ? [new Uint8Array(bytes.subarray(at))] : []
    return found
  }
}

function joined(pieces: readonly Uint8Array[], length: number): Uint8Array {
  const all = new Uint8Array(length)
  let at = 0
  for (const piece of pieces) {
    all.set(piece, at)
    at += piece.length
  }
  return all
}
