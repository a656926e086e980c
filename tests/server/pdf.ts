import { execFileSync } from 'node:child_process'

/** What a PDF says as it is laid out, with plain spaces, by an independent reader: pdftotext of poppler. */
export const textOfPdf = (pdf: Buffer): string =>
  execFileSync('pdftotext', ['-layout', '-', '-'], { input: pdf, encoding: 'utf8' }).replace(
    /[\u00a0\u202f]/g,
    ' ',
  )
