/** What statements, copies and plans say, in the languages of our customers; others read English. */
export interface LetterWords {
  statement: string
  copyOf: (kind: string, number: string) => string
  plan: string
  upheld: string
  kinds: Record<'invoice' | 'credit-note' | 'debit-note' | 'fee' | 'charge' | 'receipt' | 'other', string>
  asOf: string
  from: string
  account: string
  document: string
  date: string
  due: string
  notDue: string
  late: string
  amount: string
  open: string
  balance: string
  brought: string
  carried: string
  total: string
  overdue: string
  tax: string
  net: string
  discount: (amount: string, until: string) => string
  stillOpen: string
  order: string
  pay: string
  reference: string
  scan: string
  vat: string
  page: string
  dear: (contact: string) => string
  statementText: string
  nothingOpen: string
  copyText: string
  planText: string
  upheldText: string
  regards: string
}

const en: LetterWords = {
  statement: 'Statement of account',
  copyOf: (kind, number) => `${kind} ${number}, copy`,
  plan: 'Your payment plan',
  upheld: 'About your query',
  kinds: {
    invoice: 'Invoice',
    'credit-note': 'Credit note',
    'debit-note': 'Debit note',
    fee: 'Fee',
    charge: 'Bank fee',
    receipt: 'Payment',
    other: 'Adjustment',
  },
  asOf: 'As of',
  from: 'From',
  account: 'Account',
  document: 'Document',
  date: 'Date',
  due: 'Due',
  notDue: 'Not due',
  late: 'Days late',
  amount: 'Amount',
  open: 'Open',
  balance: 'Balance',
  brought: 'Balance brought forward',
  carried: 'Balance carried forward',
  total: 'Total',
  overdue: 'Of it overdue',
  tax: 'Tax',
  net: 'Net',
  discount: (amount, until) => `${amount} cash discount if paid by ${until}`,
  stillOpen: 'Still open',
  order: 'Order',
  pay: 'Please pay to',
  reference: 'Payment reference',
  scan: 'Scan to pay',
  vat: 'VAT',
  page: 'Page',
  dear: contact => `Dear ${contact},`,
  statementText: 'Here is how your account stands. If something differs from your books, please tell us.',
  nothingOpen: 'Nothing is open on your account.',
  copyText: 'As you asked, here is a copy of the document below.',
  planText: 'As agreed, you pay in these instalments:',
  upheldText: 'We have looked into what you told us about the items below, and find that they are owed.',
  regards: 'Kind regards',
}

const de: LetterWords = {
  ...en,
  statement: 'Kontoauszug',
  copyOf: (kind, number) => `${kind} ${number}, Kopie`,
  plan: 'Ihr Zahlungsplan',
  upheld: 'Zu Ihrer Reklamation',
  kinds: {
    invoice: 'Rechnung',
    'credit-note': 'Gutschrift',
    'debit-note': 'Lastschriftanzeige',
    fee: 'Gebühr',
    charge: 'Bankgebühr',
    receipt: 'Zahlung',
    other: 'Ausgleich',
  },
  asOf: 'Stand',
  from: 'Von',
  account: 'Konto',
  document: 'Beleg',
  date: 'Datum',
  due: 'Fällig',
  notDue: 'Nicht fällig',
  late: 'Tage überfällig',
  amount: 'Betrag',
  open: 'Offen',
  balance: 'Saldo',
  brought: 'Saldovortrag',
  carried: 'Saldo',
  total: 'Summe',
  overdue: 'davon überfällig',
  tax: 'USt',
  net: 'Netto',
  discount: (amount, until) => `${amount} Skonto bei Zahlung bis ${until}`,
  stillOpen: 'Noch offen',
  order: 'Bestellung',
  pay: 'Bitte zahlen Sie an',
  reference: 'Zahlungsreferenz',
  scan: 'Zum Zahlen scannen',
  vat: 'USt-IdNr.',
  page: 'Seite',
  dear: contact => `Guten Tag ${contact},`,
  statementText: 'so steht Ihr Konto bei uns. Weicht etwas von Ihren Büchern ab, sagen Sie es uns bitte.',
  nothingOpen: 'Auf Ihrem Konto ist nichts offen.',
  copyText: 'wie gewünscht erhalten Sie eine Kopie des unten genannten Belegs.',
  planText: 'wie vereinbart zahlen Sie in diesen Raten:',
  upheldText: 'wir haben Ihre Angaben zu den unten genannten Posten geprüft und halten sie für geschuldet.',
  regards: 'Freundliche Grüße',
}

const fr: LetterWords = {
  ...en,
  statement: 'Relevé de compte',
  copyOf: (kind, number) => `${kind} ${number}, copie`,
  plan: 'Votre échéancier',
  upheld: 'Votre réclamation',
  kinds: {
    invoice: 'Facture',
    'credit-note': 'Avoir',
    'debit-note': 'Note de débit',
    fee: 'Frais',
    charge: 'Frais bancaires',
    receipt: 'Paiement',
    other: 'Régularisation',
  },
  asOf: 'Au',
  from: 'Du',
  account: 'Compte',
  document: 'Document',
  date: 'Date',
  due: 'Échéance',
  notDue: 'Non échu',
  late: 'Jours de retard',
  amount: 'Montant',
  open: 'Solde',
  balance: 'Solde',
  brought: 'Report',
  carried: 'Solde à nouveau',
  total: 'Total',
  overdue: 'dont échu',
  tax: 'TVA',
  net: 'HT',
  discount: (amount, until) => `Escompte de ${amount} si payé avant le ${until}`,
  stillOpen: 'Reste dû',
  order: 'Commande',
  pay: 'Merci de régler à',
  reference: 'Référence de paiement',
  scan: 'Scanner pour payer',
  vat: 'TVA',
  page: 'Page',
  dear: contact => `Bonjour ${contact},`,
  statementText: 'Voici la situation de votre compte. En cas d’écart avec vos livres, merci de nous le dire.',
  nothingOpen: 'Rien n’est ouvert sur votre compte.',
  copyText: 'Comme demandé, voici une copie du document ci-dessous.',
  planText: 'Comme convenu, vous réglez selon ces échéances :',
  upheldText: 'Nous avons examiné votre réclamation sur les documents ci-dessous : ils restent dus.',
  regards: 'Cordialement',
}

const it: LetterWords = {
  ...en,
  statement: 'Estratto conto',
  copyOf: (kind, number) => `${kind} ${number}, copia`,
  plan: 'Il vostro piano di pagamento',
  upheld: 'La vostra contestazione',
  kinds: {
    invoice: 'Fattura',
    'credit-note': 'Nota di credito',
    'debit-note': 'Nota di debito',
    fee: 'Spese',
    charge: 'Spese bancarie',
    receipt: 'Pagamento',
    other: 'Rettifica',
  },
  asOf: 'Al',
  from: 'Dal',
  account: 'Conto',
  document: 'Documento',
  date: 'Data',
  due: 'Scadenza',
  notDue: 'Non scaduto',
  late: 'Giorni di ritardo',
  amount: 'Importo',
  open: 'Aperto',
  balance: 'Saldo',
  brought: 'Saldo precedente',
  carried: 'Saldo',
  total: 'Totale',
  overdue: 'di cui scaduto',
  tax: 'IVA',
  net: 'Netto',
  discount: (amount, until) => `Sconto di ${amount} per pagamento entro il ${until}`,
  stillOpen: 'Ancora aperto',
  order: 'Ordine',
  pay: 'Pagare a',
  reference: 'Riferimento',
  scan: 'Inquadra per pagare',
  vat: 'P. IVA',
  page: 'Pagina',
  dear: contact => `Gentile ${contact},`,
  statementText: 'ecco la situazione del vostro conto. Se qualcosa non corrisponde, vi preghiamo di dircelo.',
  nothingOpen: 'Sul vostro conto non c’è nulla di aperto.',
  copyText: 'come richiesto, ecco una copia del documento qui sotto.',
  planText: 'come concordato, pagherete in queste rate:',
  upheldText: 'abbiamo esaminato quanto ci avete detto: gli importi qui sotto restano dovuti.',
  regards: 'Cordiali saluti',
}

const es: LetterWords = {
  ...en,
  statement: 'Extracto de cuenta',
  copyOf: (kind, number) => `${kind} ${number}, copia`,
  plan: 'Su plan de pagos',
  upheld: 'Sobre su reclamación',
  kinds: {
    invoice: 'Factura',
    'credit-note': 'Abono',
    'debit-note': 'Nota de cargo',
    fee: 'Gastos',
    charge: 'Gastos bancarios',
    receipt: 'Pago',
    other: 'Ajuste',
  },
  asOf: 'A fecha de',
  from: 'Desde',
  account: 'Cuenta',
  document: 'Documento',
  date: 'Fecha',
  due: 'Vencimiento',
  notDue: 'No vencido',
  late: 'Días de retraso',
  amount: 'Importe',
  open: 'Pendiente',
  balance: 'Saldo',
  brought: 'Saldo anterior',
  carried: 'Saldo',
  total: 'Total',
  overdue: 'de ello vencido',
  tax: 'IVA',
  net: 'Neto',
  discount: (amount, until) => `Descuento de ${amount} si se paga antes del ${until}`,
  stillOpen: 'Pendiente',
  order: 'Pedido',
  pay: 'Rogamos paguen a',
  reference: 'Referencia de pago',
  scan: 'Escanear para pagar',
  vat: 'NIF',
  page: 'Página',
  dear: contact => `Buenos días, ${contact}:`,
  statementText:
    'Esta es la situación de su cuenta. Si algo no coincide con sus libros, díganoslo, por favor.',
  nothingOpen: 'No hay nada pendiente en su cuenta.',
  copyText: 'Como nos pidieron, aquí tienen una copia del documento indicado.',
  planText: 'Según lo acordado, pagarán en estos plazos:',
  upheldText: 'Hemos revisado lo que nos dijeron sobre estos documentos: siguen pendientes de pago.',
  regards: 'Un cordial saludo',
}

const no: LetterWords = {
  ...en,
  statement: 'Kontoutskrift',
  copyOf: (kind, number) => `${kind} ${number}, kopi`,
  plan: 'Din betalingsplan',
  upheld: 'Om din reklamasjon',
  kinds: {
    invoice: 'Faktura',
    'credit-note': 'Kreditnota',
    'debit-note': 'Debetnota',
    fee: 'Gebyr',
    charge: 'Bankgebyr',
    receipt: 'Betaling',
    other: 'Justering',
  },
  asOf: 'Per',
  from: 'Fra',
  account: 'Konto',
  document: 'Bilag',
  date: 'Dato',
  due: 'Forfall',
  notDue: 'Ikke forfalt',
  late: 'Dager forfalt',
  amount: 'Beløp',
  open: 'Åpent',
  balance: 'Saldo',
  brought: 'Inngående saldo',
  carried: 'Utgående saldo',
  total: 'Sum',
  overdue: 'herav forfalt',
  tax: 'Mva.',
  net: 'Netto',
  discount: (amount, until) => `${amount} kontantrabatt ved betaling innen ${until}`,
  stillOpen: 'Fortsatt åpent',
  order: 'Ordre',
  pay: 'Vennligst betal til',
  reference: 'Betalingsreferanse',
  scan: 'Skann for å betale',
  vat: 'Org.nr.',
  page: 'Side',
  dear: contact => `Hei ${contact},`,
  statementText: 'slik står kontoen din hos oss. Si gjerne fra hvis noe avviker fra dine bøker.',
  nothingOpen: 'Det er ingenting åpent på kontoen din.',
  copyText: 'som ønsket følger en kopi av bilaget nedenfor.',
  planText: 'som avtalt betaler du i disse avdragene:',
  upheldText: 'vi har sett på det du fortalte om postene nedenfor, og mener at de skal betales.',
  regards: 'Vennlig hilsen',
}

const ja: LetterWords = {
  ...en,
  statement: '取引残高明細書',
  copyOf: (kind, number) => `${kind} ${number}（写し）`,
  plan: 'お支払い計画',
  upheld: 'お問い合わせの件',
  kinds: {
    invoice: '請求書',
    'credit-note': '貸方票',
    'debit-note': '借方票',
    fee: '手数料',
    charge: '銀行手数料',
    receipt: 'ご入金',
    other: '調整',
  },
  asOf: '基準日',
  from: '開始日',
  account: '口座番号',
  document: '書類',
  date: '日付',
  due: '支払期日',
  notDue: '期日前',
  late: '遅延日数',
  amount: '金額',
  open: '未払額',
  balance: '残高',
  brought: '前期繰越残高',
  carried: '次期繰越残高',
  total: '合計',
  overdue: 'うち期日超過',
  tax: '税額',
  net: '税抜額',
  discount: (amount, until) => `${until}までのお支払いで${amount}割引`,
  stillOpen: '未払残高',
  order: '注文番号',
  pay: 'お振込先',
  reference: 'お支払い参照番号',
  scan: '読み取ってお支払い',
  vat: '登録番号',
  page: 'ページ',
  dear: contact => `${contact} 様`,
  statementText: '現在のお取引残高をご案内いたします。貴社の帳簿と相違がございましたら、お知らせください。',
  nothingOpen: '未払いの項目はございません。',
  copyText: 'ご依頼の書類の写しをお送りいたします。',
  planText: 'お約束のとおり、次の分割でお支払いをお願いいたします。',
  upheldText: 'お問い合わせいただいた下記の項目を確認いたしましたが、お支払いが必要と判断いたしました。',
  regards: '敬具',
}

const ALL: Record<string, LetterWords> = { en, de, fr, it, es, no, ja }
export const LETTER_LANGUAGES = Object.keys(ALL)

/** The words of a language, and the language they are in: English where there are none. */
export function wordsOf(language: string): { words: LetterWords; language: string } {
  const known = ALL[language] ?? (language === 'nb' || language === 'nn' ? no : undefined)
  return known ? { words: known, language: ALL[language] ? language : 'no' } : { words: en, language: 'en' }
}
