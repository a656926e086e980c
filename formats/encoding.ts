import iconv from 'iconv-lite'

/**
 * Bytes as text. Node's own decoder of Windows-1252 leaves the signs from 80 to 9F (€, typographic quotes) as
 * control characters, so a package does it.
 */
export function decodeAs(bytes: Uint8Array, encoding: string): string {
  return /^utf-?(?:8|16)/i.test(encoding)
    ? new TextDecoder(encoding).decode(bytes)
    : iconv.decode(Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength), encoding)
}
