import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import JSZip from 'jszip'
import type { DebitFile, TransferFile } from '../../../formats/payments'

/** Files that the tests of payments share: unruly names, long texts, amendments. */

export const OWN = {
  name: 'Wrackline Söhne & Co. „Tang“',
  iban: 'DE89370400440532013000',
  bic: 'COBADEFFXXX',
  address: { street: '3 Kelp Quay', postcode: 'X91 K220', city: 'Carrowbeg', country: 'IE' },
}

export const transfers = (over: Partial<TransferFile> = {}): TransferFile => ({
  format: 'pain.001.001.09',
  id: 'PF-00001',
  createdAt: '2026-11-16T09:30:00',
  currency: 'EUR',
  own: OWN,
  date: '2026-11-17',
  payments: [
    {
      endToEndId: 'RF-00001',
      amount: 12_345,
      party: {
        name: 'Müller, Łódź & Æsir "Fish" <AS>',
        iban: 'GB82WEST12345698765432',
        bic: '',
        address: { street: 'Straße 1', postcode: '10115', city: 'Köln', country: 'DE' },
      },
      text: 'RF-00001 Refund of CN-1; thanks @ all – 株式会社 ' + 'x'.repeat(200),
    },
    {
      endToEndId: 'RF-00002',
      amount: 1,
      party: { name: 'Port Quay', iban: 'IE29AIBK93115212345678', bic: 'AIBKIE2D' },
      text: '',
    },
  ],
  ...over,
})

export const debits = (over: Partial<DebitFile> = {}): DebitFile => ({
  format: 'pain.008.001.08',
  scheme: 'CORE',
  creditorId: 'DE98ZZZ09999999999',
  id: 'PF-00002',
  createdAt: '2026-11-16T09:30:00',
  currency: 'EUR',
  own: OWN,
  blocks: [
    {
      date: '2026-11-24',
      sequence: 'FRST',
      debits: [
        {
          endToEndId: 'DD-00001',
          amount: 99_999,
          party: { name: 'Dune Mühlen', iban: 'DE89370400440532013000', bic: '' },
          text: 'DD-00001 Dune',
          mandate: { reference: 'M/1', signedOn: '2026-01-15', amended: null },
        },
      ],
    },
    {
      date: '2026-11-24',
      sequence: 'RCUR',
      debits: [
        {
          endToEndId: 'DD-00002',
          amount: 2,
          party: { name: 'Dyke', iban: 'IE29AIBK93115212345678', bic: 'AIBKIE2DXXX' },
          text: '',
          mandate: {
            reference: 'NEW-2',
            signedOn: '2024-02-29',
            amended: { reference: 'OLD/2', iban: 'IE64IRCE92050112345678', creditorId: 'DE98ZZZ09999999999' },
          },
        },
        {
          endToEndId: 'DD-00003',
          amount: 300,
          party: { name: 'Delta', iban: 'FR1420041010050500013M02606', bic: '' },
          text: 'third',
          mandate: { reference: 'M.3', signedOn: '2025-12-31', amended: null },
        },
      ],
    },
  ],
  ...over,
})

const JAR = '/usr/share/java/hbci4j-core.jar'
const folder = mkdtempSync(join(tmpdir(), 'bilancio-xsd-'))
const schemas = new Map<string, string>()

/** The schema of a message, out of Debian's libhbci4j-core-java (of .03 and .02 a subset for the SEPA). */
async function schemaOf(format: string): Promise<string> {
  const known = schemas.get(format)
  if (known) return known
  const jar = await JSZip.loadAsync(readFileSync(JAR))
  const file = join(folder, `${format}.xsd`)
  writeFileSync(file, await jar.file(`${format}.xsd`)!.async('nodebuffer'))
  schemas.set(format, file)
  return file
}

/** What xmllint (libxml2) says of a file against the schema of its message; empty when it is valid. */
export async function againstSchema(format: string, xml: string): Promise<string> {
  const file = join(folder, 'file.xml')
  writeFileSync(file, xml)
  try {
    execFileSync('xmllint', ['--noout', '--nonet', '--schema', await schemaOf(format), file], {
      stdio: 'pipe',
    })
    return ''
  } catch (error) {
    return String((error as { stderr: Buffer }).stderr)
  }
}
