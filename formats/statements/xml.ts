import { XMLParser, XMLValidator } from 'fast-xml-parser'
import { decodeAs } from '../encoding'
import { StatementFault } from './types'

/**
 * Statements, in bytes, as text: the encoding its XML declaration or byte order mark names, else UTF-8.
 * Throws StatementFault.
 */
export function decodeText(bytes: Uint8Array): string {
  const start = new TextDecoder('latin1').decode(bytes.subarray(0, 200))
  const named =
    /^(?:\u00ef\u00bb\u00bf)?<\?xml[^>]*encoding=["']([\w-]+)["']/i.exec(start)?.[1] ??
    /ENCODING:\s*([\w-]+)/i.exec(start)?.[1]
  const marked =
    bytes[0] === 0xff && bytes[1] === 0xfe
      ? 'utf-16le'
      : bytes[0] === 0xfe && bytes[1] === 0xff
        ? 'utf-16be'
        : undefined
  const name = marked ?? (named && !/^(usascii|unicode)$/i.test(named) ? named : 'utf-8')
  // Every byte is a sign there, so nothing can be wrong with it.
  if (/^(?:windows-1252|cp-?1252|iso-?8859-1|latin-?1)$/i.test(name)) return decodeAs(bytes, 'windows-1252')
  try {
    return new TextDecoder(name, { fatal: true }).decode(bytes)
  } catch (error) {
    if ((error as Error).name === 'RangeError')
      throw new StatementFault(
        `the file says it is in ${name}, which is not an encoding we know`,
        'encoding',
        'save it as UTF-8',
      )
    // Banks without a declaration often write Western European text.
    if (!named && !marked && !bytes.includes(0)) return decodeAs(bytes, 'windows-1252')
    throw new StatementFault(
      `the file says it is in ${name}, but its bytes are not`,
      'encoding',
      'ask the bank for it again, or save it as UTF-8',
    )
  }
}

export type XmlNode = { [name: string]: XmlNode | XmlNode[] | string | undefined }

/**
 * XML as plain objects without namespaces; every value stays text. Documents with a DOCTYPE (entities) are
 * refused. Throws StatementFault.
 */
export function readXml(text: string): XmlNode {
  if (/<!DOCTYPE|<!ENTITY/i.test(text))
    throw new StatementFault(
      'the file declares a document type or entities, which a bank file never needs',
      'file',
      'ask the bank for a plain file',
    )
  const valid = XMLValidator.validate(text)
  if (valid !== true)
    throw new StatementFault(
      `the file is not whole XML: line ${valid.err.line}: ` +
        `${valid.err.msg.startsWith("Invalid '[") ? 'it ends before its elements are closed' : valid.err.msg}`,
      `line ${valid.err.line}`,
      'it may have been cut off: fetch it again',
    )
  const parser = new XMLParser({
    ignoreAttributes: false,
    attributeNamePrefix: '@',
    removeNSPrefix: true,
    parseTagValue: false,
    parseAttributeValue: false,
    trimValues: true,
    htmlEntities: true,
    ignoreDeclaration: true,
    // Nobody asks where an element stands: it need not be told as text, for each of millions.
    jPath: false,
  })
  try {
    return parser.parse(text) as XmlNode
  } catch {
    // Nested deeper than a hundred levels, or with names that no element of ISO 20022 has.
    throw new StatementFault(
      'the file is XML, but not of a kind that a bank or a payer sends',
      'file',
      'choose an ISO 20022 file',
    )
  }
}

/** The elements of a name: none, one or many. */
export function all(node: XmlNode | undefined, name: string): XmlNode[] {
  const value = node?.[name]
  if (value === undefined) return []
  return (Array.isArray(value) ? value : [value]).map(v =>
    typeof v === 'string' ? { '#text': v } : (v as XmlNode),
  )
}

/** The first element down a path, such as `Acct.Id.IBAN`. */
export function at(node: XmlNode | undefined, path: string): XmlNode | undefined {
  let here = node
  for (const name of path.split('.')) here = all(here, name)[0]
  return here
}

export const textAt = (node: XmlNode | undefined, path: string): string => {
  const found = path ? at(node, path) : node
  return typeof found?.['#text'] === 'string' ? found['#text'].trim() : ''
}
