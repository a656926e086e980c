import { composeIBAN, isValidIBAN } from 'ibantools'
import { chance, type Chance } from '../simulators/chance'

export type Habit = 'prompt' | 'month-end' | 'early' | 'slow' | 'erratic' | 'insolvent'
export interface DemoCustomer {
  number: string
  name: string
  class: string
  country: string
  language: string
  currency: string
  terms: string
  creditLimit: number
  contact: string
  street: string
  postcode: string
  city: string
  email: string
  phone: string
  parent: string | null
  iban: string
  payerIban: string
  habit: Habit
  daysLate: number
  spread: number
  typical: number
  every: number
  short: number
}

export const CLASSES = [
  { code: 'food', name: 'Food makers', terms: '2% 10, net 30', policy: 'standard' },
  { code: 'feed', name: 'Feed mills', terms: 'net 30', policy: 'standard' },
  { code: 'garden', name: 'Garden suppliers', terms: 'net 30', policy: 'standard' },
  { code: 'care', name: 'Cosmetics', terms: '3% 7, 2% 14, net 45', policy: 'standard' },
  { code: 'fish', name: 'Fish farms', terms: 'net 45', policy: 'standard' },
  { code: 'public', name: 'Public gardens', terms: 'eom 30', policy: 'standard' },
]

// All invented: no real firm, brand or person is meant.
const FIRST: Record<string, string[]> = {
  food: [
    'Hollin & Sedge',
    'Oatfield',
    'Verde Orto',
    'Pellicano',
    'Kombu-ya',
    'Brambleworth',
    'Quernstone',
    'Saltmarsh',
    'Lumen & Thyme',
    'Orchard Loft',
    'Tarn & Barley',
    'Sorrel Lane',
    'Millbeck',
    'Pane Azzurro',
    'Fennelbrook',
    'Umi no Ie',
    'Olivar Claro',
  ],
  feed: [
    'Tidemill',
    'Greyfold',
    'Harrowby',
    'Plough & Tide',
    'Stonebyre',
    'Kornhaven',
    'Westerfold',
    'Byrelight',
    'Havrevik',
    'Longacre',
  ],
  garden: [
    'Brae & Barrow',
    'Mossgate',
    'Thornapple',
    'Gartenfuchs',
    'Loam & Linden',
    'Jardin d’Aval',
    'Peatlark',
    'Rootwell',
    'Fernhollow',
    'Dewberry',
  ],
  care: [
    'Petrel Bay',
    'Lumière d’Algue',
    'Carrageen',
    'Selkie & Foam',
    'Nacre Nine',
    'Mer Claire',
    'Silverkelp',
    'Tideglass',
    'Ondine Verte',
    'Salt & Vellum',
  ],
  fish: [
    'Fjordlys',
    'Stillwater',
    'Heron Reach',
    'Skjærvik',
    'Coldharbour Sound',
    'Nordstraum',
    'Blåvik',
    'Kestrel Loch',
    'Havbris',
    'Deepmere',
  ],
  public: [
    'Municipal Gardens of Orle',
    'Parks Office of Vaal',
    'Botanic Trust Arden',
    'Stadtgärten Lindau-Ost',
    'Jardins publics de Corbel',
    'Civic Greens Tarrow',
  ],
}
const LAST: Record<string, string[]> = {
  food: ['Foods', 'Mills', 'Kitchens', 'Bakers', 'Provisions', 'Trading'],
  feed: ['Feeds', 'Mill', 'Nutrition', 'Co-operative'],
  garden: ['Garden Supply', 'Nurseries', 'Seeds', 'Growers'],
  care: ['Cosmetics', 'Labs', 'Skincare', 'Apothecary'],
  fish: ['Fisk', 'Aquaculture', 'Hatchery', 'Sea Farms'],
  public: [''],
}
const PLACES: [string, string, string, number][] = [
  ['IE', 'en', 'EUR', 30],
  ['DE', 'de', 'EUR', 18],
  ['FR', 'fr', 'EUR', 16],
  ['IT', 'it', 'EUR', 8],
  ['NL', 'nl', 'EUR', 8],
  ['GB', 'en', 'GBP', 22],
  ['NO', 'no', 'NOK', 12],
  ['US', 'en', 'USD', 6],
  ['JP', 'ja', 'JPY', 5],
  ['ES', 'es', 'EUR', 6],
]
/** Where a name is at home, when its language tells. */
const HOMES: [country: string, words: RegExp][] = [
  ['IT', /Verde Orto|Pellicano|Pane Azzurro/],
  ['JP', /Kombu-ya|Umi no Ie/],
  ['DE', /Gartenfuchs|Stadtgärten/],
  ['FR', /Jardin|Lumière|Mer Claire|Ondine Verte/],
  ['NO', /Kornhaven|Havrevik|Fjordlys|Skjærvik|Nordstraum|Blåvik|Havbris/],
  ['ES', /Olivar/],
]
/** What firms of each trade are called there. */
const NATIONAL: Record<string, Record<string, string[]>> = {
  IT: { food: ['Alimentari', 'Conserve', 'Forno'] },
  ES: { food: ['Alimentos', 'Conservas'] },
  JP: { food: ['Shokuhin', 'Shoten'] },
  DE: { garden: ['Gartenbedarf', 'Saatgut', 'Baumschulen'], public: [''] },
  FR: { garden: ['Pépinières', 'Jardinerie'], care: ['Cosmétiques', 'Laboratoire', 'Soins'], public: [''] },
  NO: { feed: ['Fôr', 'Mølle'], fish: ['Fisk', 'Havbruk', 'Settefisk', 'Sjømat'] },
}
/** A second house of the same name. */
const SITES: Record<string, string[]> = {
  '': ['North', 'East', 'Quayside', 'Upper Mill', 'Riverside', 'Westgate'],
  IT: ['Nord', 'Levante', 'del Porto'],
  ES: ['Norte', 'del Puerto'],
  JP: ['Kita', 'Minato'],
  DE: ['Nord', 'Ost', 'am Hafen'],
  FR: ['Nord', 'du Port', 'de l’Est'],
  NO: ['Nord', 'Øst', 'Brygge', 'Vest'],
}
/** Whom to ring, by country; all invented. */
const PEOPLE: Record<string, string[]> = {
  IE: ['Maud Ferrow', 'Tomas Reedy', 'Siobhan Darragh', 'Owen Tarrant', 'Rosa Quill', 'Niamh Carrow'],
  GB: ['Callum Strath', 'Maud Ferrow', 'Owen Tarrant', 'Edith Marl'],
  US: ['Rosa Quill', 'Grant Hollis', 'Dana Pruett'],
  DE: ['Jonas Ackermann', 'Felix Ottmar', 'Edda Voss'],
  FR: ['Claire Aubin', 'Luc Perrin', 'Odile Vernet'],
  IT: ['Paolo Verri', 'Giada Morelli'],
  NL: ['Saskia Verhoek', 'Pim Doorn'],
  NO: ['Iben Solvang', 'Hanne Brekke', 'Stian Aas'],
  JP: ['Yuki Amano', 'Kenji Morita'],
  ES: ['Inés Falcón', 'Tomás Riera'],
}
/** Streets and invented towns; `{n}` is the number of the house. */
const ADDRESSES: Record<string, { streets: string[]; towns: string[]; postcode: (c: Chance) => string }> = {
  IE: {
    streets: ['{n} Ferry Lane', '{n} Quay Road', 'Unit {n}, Millfield Park'],
    towns: ['Carrowbeg', 'Ballymorrin', 'Kilderrow'],
    postcode: c => `X${c.whole(10, 99)} ${c.pick(['K', 'P', 'R'])}${c.whole(100, 999)}`,
  },
  GB: {
    streets: ['{n} Tannery Row', '{n} Harbour Street', '{n} Old Station Yard'],
    towns: ['Marlthorpe', 'Sedgewick Bay', 'Upper Tarnley'],
    postcode: c => `ZZ${c.whole(1, 20)} ${c.whole(1, 9)}QX`,
  },
  US: {
    streets: ['{n} Kelp Avenue', '{n} Wharf Street'],
    towns: ['Port Ellery, ME', 'Saltbrook, WA'],
    postcode: c => String(c.whole(10_000, 99_999)),
  },
  DE: {
    streets: ['Am Mühlgraben {n}', 'Deichstraße {n}', 'Lindenhof {n}'],
    towns: ['Tannrode-See', 'Ostermoor', 'Lindau-Ost'],
    postcode: c => String(c.whole(10_000, 99_999)),
  },
  FR: {
    streets: ['{n} rue du Port', '{n} quai des Algues', '{n} chemin du Moulin'],
    towns: ['Corbel-sur-Mer', 'Saint-Aval', 'Port-Lumière'],
    postcode: c => String(c.whole(10_000, 95_999)),
  },
  IT: {
    streets: ['Via del Porto {n}', 'Via Orto Verde {n}'],
    towns: ['Torrechiara Mare', 'Borgolago'],
    postcode: c => String(c.whole(10_000, 98_999)),
  },
  NL: {
    streets: ['Havenkade {n}', 'Molenpad {n}'],
    towns: ['Vaalwijk', 'Zeedorp'],
    postcode: c => `${c.whole(1000, 9999)} ZX`,
  },
  NO: {
    streets: ['Strandgata {n}', 'Bryggeveien {n}'],
    towns: ['Nordstraum', 'Skjærvik'],
    postcode: c => String(c.whole(1000, 9999)),
  },
  JP: {
    streets: ['{n}-4 Minato-dori', '{n}-12 Umibe'],
    towns: ['Kombu-shi', 'Shiosai'],
    postcode: c => `${c.whole(100, 999)}-${c.whole(1000, 9999)}`,
  },
  ES: {
    streets: ['Calle del Puerto {n}', 'Avenida del Mar {n}'],
    towns: ['Puerto Alga', 'Valmarina'],
    postcode: c => String(c.whole(10_000, 52_999)),
  },
}
/** An address by chance of its own, so that the rest of the story stays as it is. */
function addressIn(country: string, number: number): { street: string; postcode: string; city: string } {
  const c = chance(`wrackline address ${number}`)
  const { streets, towns, postcode } = ADDRESSES[country] ?? ADDRESSES.IE!
  return {
    street: c.pick(streets).replace('{n}', String(c.whole(1, 88))),
    postcode: postcode(c),
    city: c.pick(towns),
  }
}
const SIZE: Record<string, number> = {
  food: 380_000,
  feed: 620_000,
  garden: 190_000,
  care: 300_000,
  fish: 760_000,
  public: 240_000,
}
const PER_EUR: Record<string, number> = { EUR: 1, GBP: 0.87, NOK: 11.7, USD: 1.15, JPY: 1.75 }
const HABITS: [Habit, number, number, number, number][] = [
  ['prompt', 34, 0, 3, 0.01],
  ['month-end', 24, 6, 4, 0.02],
  ['early', 14, -18, 3, 0],
  ['slow', 18, 26, 9, 0.03],
  ['erratic', 10, 14, 22, 0.12],
]

const ascii = (s: string) =>
  s
    .normalize('NFD')
    .replace(/[\u0300-\u036f]/g, '')
    .replace(/å/gi, 'a')
    .replace(/æ/gi, 'ae')
    .replace(/ø/gi, 'o')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-|-$/g, '')

function weighted<T extends [...unknown[]]>(c: Chance, list: T[], at: number): T {
  let x = c.next() * list.reduce((a, l) => a + (l[at] as number), 0)
  return list.find(l => (x -= l[at] as number) < 0) ?? list[0]!
}

// Length and shape of national account numbers (ISO 13616 registry); the bank codes are invented.
const BBAN: Record<string, string> = {
  IE: 'ZZZZ90000000000000',
  DE: '000000000000000000',
  FR: '00000000000000000000000',
  IT: 'A0000000000000000000000',
  NL: 'ZZZZ0000000000',
  GB: 'ZZZZ00000000000000',
  NO: '00000000000',
  ES: '00000000000000000000',
}
function inventIban(c: Chance, country: string): string {
  const shape = BBAN[country]
  if (!shape) return `00${String(c.whole(0, 99_999_999)).padStart(8, '0')}`
  for (let tries = 0; tries < 4000; tries++) {
    const iban = composeIBAN({ countryCode: country, bban: shape.replace(/0/g, () => String(c.whole(0, 9))) })
    if (iban && isValidIBAN(iban)) return iban
  }
  return ''
}

/** Some 160 invented customers in six classes and three groups, each with a way of paying. */
export function demoCustomers(c: Chance): DemoCustomer[] {
  const customers: DemoCustomer[] = []
  const names = new Set<string>()
  const counts: Record<string, number> = {
    food: 48,
    feed: 26,
    garden: 30,
    care: 24,
    fish: 26,
    public: 6,
  }
  const heads: Record<string, string> = {}
  let number = 2001
  for (const [code, count] of Object.entries(counts)) {
    for (let i = 0; i < count; i++) {
      const round = Math.floor(i / FIRST[code]!.length)
      const first = FIRST[code]![i % FIRST[code]!.length]!
      const home = HOMES.find(([, words]) => words.test(first))?.[0]
      const last = (home && NATIONAL[home]?.[code]) ?? LAST[code]!
      let name = first + (last[0] ? ` ${last[(i + round) % last.length]}` : '')
      const [only, sites] = [name, SITES[home ?? ''] ?? SITES['']!]
      for (let n = 0; names.has(name); n++) name = `${only} ${sites[n] ?? `No ${n + 1}`}`
      names.add(name)
      const [country, language, currency] =
        PLACES.find(p => p[0] === home) ??
        weighted(
          c,
          // A name of no other language is at home where English is spoken, or trades from near it.
          PLACES.filter(p => (code === 'fish' ? ['GB', 'IE'] : ['IE', 'GB', 'US', 'NL']).includes(p[0])),
          3,
        )
      const [habit, , late, spread, short] = weighted(c, HABITS, 1)
      const typical = Math.round(SIZE[code]! * (0.35 + c.next() * 1.6) * PER_EUR[currency]!)
      const group = i > 0 && i < 4 && ['feed', 'fish', 'food'].includes(code)
      if (i === 0) heads[code] = String(number)
      customers.push({
        number: String(number++),
        name,
        class: code,
        country,
        language,
        currency,
        terms: CLASSES.find(k => k.code === code)!.terms,
        creditLimit:
          Math.round(((typical / PER_EUR[currency]!) * (habit === 'slow' ? 5.5 : 8)) / 500_000 + 1) * 500_000,
        contact: c.pick(PEOPLE[country] ?? PEOPLE.IE!),
        ...addressIn(country, number),
        email: c.happens(0.94) ? `accounts@${ascii(name)}.example` : '',
        phone: `+${
          {
            IE: 353,
            DE: 49,
            FR: 33,
            IT: 39,
            NL: 31,
            GB: 44,
            NO: 47,
            US: 1,
            JP: 81,
            ES: 34,
          }[country]
        } 555 ${String(c.whole(0, 9999)).padStart(4, '0')}`,
        parent: group ? heads[code]! : null,
        iban: '',
        payerIban: '',
        habit,
        daysLate: Math.max(-20, Math.round(c.around(late, 4))),
        spread,
        typical,
        every: c.whole(11, 27),
        short,
      })
    }
  }
  // The master data of most hold the bank account they pay from; the others have to be learnt.
  for (const k of customers) {
    k.payerIban = inventIban(c, k.country)
    if (BBAN[k.country] && c.happens(0.7)) k.iban = k.payerIban
  }
  // One of the slow payers stops paying for good, and one address bounces.
  const insolvent = customers.find(k => k.class === 'fish' && k.habit === 'slow') ?? customers[100]!
  Object.assign(insolvent, { habit: 'insolvent', daysLate: 32 })
  const bouncing =
    customers.find(k => k.class === 'garden' && k.habit === 'slow' && k.email) ?? customers[80]!
  bouncing.email = bouncing.email.replace('@', '@bounce.')
  return customers
}
