import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { join } from 'node:path'
import * as fontkit from 'fontkit'
import PDFDocument from 'pdfkit'

const require = createRequire(join(process.cwd(), 'package.json'))
/**
 * Fonts as they are: of a compressed one every glyph that is drawn unpacks the whole table again. Each is
 * read once for all letters; what a letter embeds is a subset of its own.
 */
const font = (file: string) => fontkit.create(readFileSync(require.resolve(`@expo-google-fonts/${file}.ttf`)))
const FONTS = {
  serif: font('newsreader/500Medium/Newsreader_500Medium'),
  sans: font('public-sans/400Regular/PublicSans_400Regular'),
  bold: font('public-sans/600SemiBold/PublicSans_600SemiBold'),
  japanese: font('noto-sans-jp/400Regular/NotoSansJP_400Regular'),
}
// Palette: the light tones of the design tokens.
export const INK = '#1b2430'
export const SOFT = '#4d5765'
export const RULE = '#cbbfa6'
export const AGES = ['#cfe0d8', '#e5cf95', '#d3a15f', '#b06a42', '#7c3f37', '#3d2b33']
export const LEFT = 64

/** Kana, kanji and their punctuation. */
const JAPANESE = /[\u3000-\u30ff\u3400-\u9fff\uff00-\uffef]/

/** The font of a text: names may need letters that ours lack. */
export const sansFor = (text: string): 'sans' | 'japanese' => (JAPANESE.test(text) ? 'japanese' : 'sans')
export const serifFor = (text: string): 'serif' | 'japanese' => (JAPANESE.test(text) ? 'japanese' : 'serif')

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
  // PDFKit takes a font that is read already, its types do not say so.
  for (const [name, read] of Object.entries(FONTS)) doc.registerFont(name, read as unknown as ArrayBuffer)
  const right = doc.page.width - LEFT
  const companyHead = () => {
    AGES.filter((_, i) => i % 2 === 1).forEach((tone, i) => doc.rect(LEFT, 60 + i * 5, 15, 3.4).fill(tone))
    doc
      .fillColor(INK)
      .font(serifFor(company))
      .fontSize(19)
      .text(company, LEFT + 24, 55)
  }
  companyHead()
  return {
    doc,
    ended,
    /** Another letter of ours begins, in the same file. */
    nextLetter: () => {
      doc.addPage()
      companyHead()
    },
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
          .font(o.bold && sansFor(cell) === 'sans' ? 'bold' : sansFor(cell))
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
