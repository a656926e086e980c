import { setHeader, type H3Event } from 'h3'

/** A PDF to be looked at in the browser, called as it is. */
export function pdfAnswer(event: H3Event, name: string, pdf: Buffer): Buffer {
  setHeader(event, 'content-type', 'application/pdf')
  setHeader(event, 'content-disposition', `inline; filename="${name.replace(/[^\w.-]/g, '_')}.pdf"`)
  return pdf
}
