import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { join } from 'node:path'
import PDFDocument from 'pdfkit'

const require = createRequire(join(process.cwd(), 'package.json'))
const font = (file: string) => readFileSync(require.resolve(`@fontsource/${file}`))
const FONTS = {
  serif: font('newsreader/files/newsreader-latin-ext-500-normal.woff'),
  serifLatin: font('newsreader/files/newsreader-latin-500-normal.woff'),
  sans: font('public-sans/files/public-sans-latin-400-normal.woff'),
  bold: font('public-sans/files/public-sans-latin-600-normal.woff'),
  sansExt: font('public-sans/files/public-sans-latin-ext-400-normal.woff'),
}
// Palette: the light tones of the design tokens.
export const INK = '#1b2430'
export const SOFT = '#4d5765'
export const RULE = '#cbbfa6'
export const AGES = ['#cfe0d8', '#e5cf95', '#d3a15f', '#b06a42', '#7c3f37', '#3d2b33']
export const LEFT = 64

/** Names may need letters that the plain Latin file lacks. */
export const sansFor = (text: string) =>
  /[^\u0000-\u00ff\u2010-\u203a\u20ac\u2212]/.test(text) ? 'sansExt' : 'sans'
export const serifFor = (text: string) =>
  /[^\u0000-\u00ff\u2010-\u203a]/.test(text) ? 'serif' : 'serifLatin'

export interface PaperColumn {
  at: number
  w: number
  right?: boolean
}

/** A sheet of A4 with the company's head; what every letter and list of ours is drawn on. */
export function letterDocument(company: string, title: string) {
  const doc = new PDFDocument({
    size: 'A4',
    margins: { top: 60, bottom: 70, left: LEFT, right: LEFT },
    bufferPages: true,
    info: { Title: title, Author: company },
  })
  const chunks: Buffer[] = []
  doc.on('data', (chunk: Buffer) => chunks.push(chunk))
  const ended = new Promise<Buffer>((resolve, reject) => {
    doc.on('end', () => resolve(Buffer.concat(chunks)))
    doc.on('error', reject)
  })
  for (const [name, file] of Object.entries(FONTS)) doc.registerFont(name, file)
  const right = doc.page.width - LEFT
  AGES.filter((_, i) => i % 2 === 1).forEach((tone, i) => doc.rect(LEFT, 60 + i * 5, 15, 3.4).fill(tone))
  doc
    .fillColor(INK)
    .font(serifFor(company))
    .fontSize(19)
    .text(company, LEFT + 24, 55)
  return {
    doc,
    ended,
    right,
    width: right - LEFT,
    text: (text: string, x: number, y: number, o: { size?: number; font?: string; soft?: boolean } = {}) =>
      doc
        .font(o.font ?? sansFor(text))
        .fontSize(o.size ?? 10.5)
        .fillColor(o.soft ? SOFT : INK)
        .text(text, x, y),
    row: (
      cells: string[],
      columns: readonly PaperColumn[],
      y: number,
      o: { bold?: boolean; soft?: boolean } = {},
    ) =>
      cells.forEach((cell, i) =>
        doc
          .font(o.bold ? 'bold' : sansFor(cell))
          .fontSize(9.5)
          .fillColor(o.soft ? SOFT : INK)
          .text(cell, LEFT + columns[i]!.at, y, {
            width: columns[i]!.w,
            align: columns[i]!.right ? 'right' : 'left',
            lineBreak: false,
          }),
      ),
    rule: (y: number) => doc.moveTo(LEFT, y).lineTo(right, y).lineWidth(0.5).strokeColor(RULE).stroke(),
  }
}
