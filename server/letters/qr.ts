import { create } from 'qrcode'
import { INK } from './paper'
import type { Paper } from './head'

/** Draws a QR code with error correction M, of a size in points; its quiet zone is the paper around it. */
export function drawQr({ doc }: Paper, payload: string, x: number, y: number, size: number): void {
  const { modules } = create(payload, { errorCorrectionLevel: 'M' })
  const module = size / modules.size
  for (let row = 0; row < modules.size; row++)
    for (let column = 0; column < modules.size; column++)
      if (modules.get(row, column))
        // A hair larger than its place, so that no light shows between two dark ones.
        doc.rect(x + column * module, y + row * module, module + 0.05, module + 0.05)
  doc.fill(INK)
}
