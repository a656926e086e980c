import { drawFeet, drawHead, payingLines, type Addressed, type Paper } from './head'
import { drawQr } from './qr'
import { AGES, INK, LEFT, letterDocument, sansFor, SOFT, type PaperColumn } from './paper'
import { wordsOf } from './words'

/** A part of a letter: a table, its ages, and how to pay what it asks for. All texts as they are printed. */
export interface SheetSection {
  title: string
  /** Shares of the width; they add up to 1. */
  columns: { label: string; share: number; right?: boolean }[]
  rows: string[][]
  totals: string[][]
  /** The open amounts by age, minor units, with what each is called. */
  strata: { amounts: number[]; texts: string[] } | null
  /** What a QR code of a transfer holds; empty for none. */
  qr: string
  /** It only explains another part: how to pay stands there. */
  explains?: true
}

/** A letter of ours other than a reminder: statement, copy, plan. Its PDF shows this and nothing else. */
export interface LetterSheet extends Addressed {
  language: string
  number: string
  date: string
  subject: string
  facts: [label: string, value: string][]
  before: string
  sections: SheetSection[]
  closing: string
  /** Whether it says how to pay. */
  pays: boolean
}

const ROW = 16
/** The foot of a page begins so far above its end. */
const FOOT = 92
const QR_SIZE = 84

interface Pen {
  y: number
}

/** Goes on to another page when so much does not fit any more; answers whether it did. */
function room({ doc }: Paper, pen: Pen, needed: number): boolean {
  if (pen.y + needed <= doc.page.height - FOOT) return false
  doc.addPage()
  pen.y = 60
  return true
}

function drawTable(paper: Paper, pen: Pen, section: SheetSection): void {
  const { doc, width, row, rule } = paper
  let at = 0
  const columns = section.columns.map(({ share, right }): PaperColumn => {
    const column = { at, w: width * share - 4, right }
    at += width * share
    return column
  })
  const head = () => {
    row(
      section.columns.map(c => c.label),
      columns,
      pen.y,
      { soft: true },
    )
    pen.y += ROW
    rule(pen.y - 4)
  }
  if (section.title) {
    room(paper, pen, 60)
    doc.font(sansFor(section.title)).fontSize(11).fillColor(INK).text(section.title, LEFT, pen.y)
    pen.y += 18
  }
  head()
  for (const cells of section.rows) {
    if (room(paper, pen, ROW)) head()
    row(cells, columns, pen.y)
    pen.y += ROW
    rule(pen.y - 4)
  }
  for (const cells of section.totals) {
    room(paper, pen, ROW)
    row(cells, columns, pen.y, { bold: true })
    pen.y += ROW
  }
}

function drawStrata(paper: Paper, pen: Pen, { amounts, texts }: NonNullable<SheetSection['strata']>): void {
  const sum = amounts.reduce((a, b) => a + Math.max(0, b), 0)
  if (sum <= 0) return
  const { doc, width } = paper
  room(paper, pen, 34)
  pen.y += 4
  let x = LEFT
  amounts.forEach((amount, i) => {
    const w = (width * Math.max(0, amount)) / sum
    doc.rect(x, pen.y, w, 8).fill(AGES[i]!)
    x += w
  })
  const text = texts.join('   ')
  doc
    .font(sansFor(text))
    .fontSize(8.5)
    .fillColor(SOFT)
    .text(text, LEFT, pen.y + 12, { width })
  pen.y = doc.y + 8
}

function drawPaying(paper: Paper, pen: Pen, sheet: LetterSheet, qr: string): void {
  const { words } = wordsOf(sheet.language)
  const lines = payingLines(sheet, words)
  if (!lines.length) return
  room(paper, pen, Math.max(lines.length * 14, qr ? QR_SIZE + 16 : 0) + 8)
  const { doc, right, width } = paper
  pen.y += 8
  const top = pen.y
  for (const [label, value] of lines) {
    doc
      .font(sansFor(label))
      .fontSize(9.5)
      .fillColor(SOFT)
      .text(label, LEFT, pen.y, { width: 130, lineBreak: false })
    doc
      .font(sansFor(value) === 'sans' ? 'bold' : sansFor(value))
      .fillColor(INK)
      .text(value, LEFT + 135, pen.y, { width: width - 135 - QR_SIZE, lineBreak: false })
    pen.y += 14
  }
  if (!qr) return
  drawQr(paper, qr, right - QR_SIZE, top, QR_SIZE)
  doc
    .font(sansFor(words.scan))
    .fontSize(7.5)
    .fillColor(SOFT)
    .text(words.scan, right - QR_SIZE, top + QR_SIZE + 3, {
      width: QR_SIZE,
      align: 'center',
      lineBreak: false,
    })
  pen.y = Math.max(pen.y, top + QR_SIZE + 16)
}

/** Draws a letter onto paper that begins with it; answers nothing: the caller ends the file. */
function drawSheet(paper: Paper, sheet: LetterSheet): void {
  const { doc, width } = paper
  const { words, language } = wordsOf(sheet.language)
  const start = doc.bufferedPageRange().count - 1
  drawHead(paper, sheet, language, sheet.facts, sheet.subject)
  doc
    .moveDown(0.6)
    .font(sansFor(sheet.before))
    .fontSize(10.5)
    .fillColor(INK)
    .text(sheet.before, { width, lineGap: 2.5, paragraphGap: 5 })
  const pen: Pen = { y: doc.y + 12 }
  for (const section of sheet.sections) {
    drawTable(paper, pen, section)
    if (section.strata) drawStrata(paper, pen, section.strata)
    if (sheet.pays && !section.explains) drawPaying(paper, pen, sheet, section.qr)
    pen.y += 12
  }
  if (sheet.closing) {
    room(paper, pen, 50)
    doc
      .font(sansFor(sheet.closing))
      .fontSize(10.5)
      .fillColor(INK)
      .text(sheet.closing, LEFT, pen.y, { width, lineGap: 2.5 })
  }
  const { count } = doc.bufferedPageRange()
  drawFeet(paper, sheet, { tax: words.vat, page: words.page }, sheet.number, { start, count: count - start })
  doc.switchToPage(count - 1)
}

/** One letter as a PDF on A4, or several one after another in a file for the printer. */
export function sheetPdf(sheets: readonly LetterSheet[]): Promise<Buffer> {
  const [first] = sheets
  if (!first) throw new RangeError('there is no letter to draw')
  const paper = letterDocument(first.company, `${first.subject} ${first.number}`)
  sheets.forEach((sheet, n) => {
    if (n > 0) paper.nextLetter()
    drawSheet(paper, sheet)
  })
  paper.doc.end()
  return paper.ended
}
