/** What letters about refunds and direct debits say, in our customers' languages; others read English. */
export interface PaymentWords {
  /** A claim that is filed in an insolvency. */
  debtClaim: string
  debtClaimText: (debtor: string, day: string) => string
  /** That invoices were given to a factor, and are paid to it from now on. */
  assignment: string
  assignmentText: (factor: string) => string
  payTo: string
  refund: string
  refundText: (how: string) => string
  byTransfer: (iban: string) => string
  byCheque: (number: string) => string
  byCard: string
  inCash: string
  credit: string
  unclaimed: string
  unclaimedText: string
  notice: string
  noticeText: (day: string, amount: string) => string
  mandate: string
  creditor: string
  debited: string
  /** Discount, and credit of the account, that is not collected. */
  deducted: string
  collected: string
  account: string
}

const en: PaymentWords = {
  debtClaim: 'Proof of debt',
  debtClaimText: (debtor, day) =>
    `In the insolvency of ${debtor}, opened on ${day}, we claim the debts below.`,
  assignment: 'Notice of assignment',
  assignmentText: factor =>
    `We have assigned the invoices below to ${factor}. Please pay them, with discharging effect, to that company only.`,
  payTo: 'Pay to',
  refund: 'Advice of refund',
  refundText: how => `We are paying back the credit below ${how}.`,
  byTransfer: iban => `to your account ${iban}`,
  byCheque: number => `by cheque ${number}, enclosed`,
  byCard: 'to the card you paid with',
  inCash: 'in cash',
  credit: 'Credit',
  unclaimed: 'Credit on your account',
  unclaimedText:
    'The credit below has been on your account for some time. Please tell us what it is for, or where we may pay it to.',
  notice: 'Advance notice of direct debit',
  noticeText: (day, amount) => `On ${day} we will collect ${amount} from your account for the items below.`,
  mandate: 'Mandate',
  creditor: 'Creditor identifier',
  debited: 'Account debited',
  deducted: 'Deducted',
  collected: 'Collected',
  account: 'Collected on',
}
const de: PaymentWords = {
  debtClaim: 'Forderungsanmeldung',
  debtClaimText: (debtor, day) =>
    `Im Insolvenzverfahren über das Vermögen von ${debtor}, eröffnet am ${day}, melden wir die unten genannten Forderungen an.`,
  assignment: 'Abtretungsanzeige',
  assignmentText: factor =>
    `Wir haben die unten genannten Rechnungen an ${factor} abgetreten. Bitte zahlen Sie sie mit schuldbefreiender Wirkung nur noch dorthin.`,
  payTo: 'Zahlbar an',
  refund: 'Erstattungsanzeige',
  refundText: how => `Wir erstatten Ihnen das unten genannte Guthaben ${how}.`,
  byTransfer: iban => `auf Ihr Konto ${iban}`,
  byCheque: number => `mit beiliegendem Scheck ${number}`,
  byCard: 'auf die Karte, mit der Sie gezahlt haben',
  inCash: 'in bar',
  credit: 'Guthaben',
  unclaimed: 'Guthaben auf Ihrem Konto',
  unclaimedText:
    'Das unten genannte Guthaben steht seit einiger Zeit auf Ihrem Konto. Bitte teilen Sie uns mit, wofür es bestimmt ist oder wohin wir es auszahlen dürfen.',
  notice: 'Vorankündigung einer Lastschrift',
  noticeText: (day, amount) =>
    `Am ${day} ziehen wir ${amount} für die unten genannten Posten von Ihrem Konto ein.`,
  mandate: 'Mandat',
  creditor: 'Gläubiger-Identifikationsnummer',
  debited: 'Belastetes Konto',
  deducted: 'Abzug',
  collected: 'Einzug',
  account: 'Einzug am',
}
const fr: PaymentWords = {
  debtClaim: 'Déclaration de créances',
  debtClaimText: (debtor, day) =>
    `Dans la procédure collective de ${debtor}, ouverte le ${day}, nous déclarons les créances ci-dessous.`,
  assignment: 'Avis de cession de créances',
  assignmentText: factor =>
    `Nous avons cédé les factures ci-dessous à ${factor}. Veuillez les régler, de façon libératoire, à cette société uniquement.`,
  payTo: 'À payer à',
  refund: 'Avis de remboursement',
  refundText: how => `Nous vous remboursons l’avoir ci-dessous ${how}.`,
  byTransfer: iban => `sur votre compte ${iban}`,
  byCheque: number => `par le chèque ${number} ci-joint`,
  byCard: 'sur la carte avec laquelle vous avez payé',
  inCash: 'en espèces',
  credit: 'Avoir',
  unclaimed: 'Avoir sur votre compte',
  unclaimedText:
    'L’avoir ci-dessous figure depuis quelque temps sur votre compte. Merci de nous dire à quoi il se rapporte, ou où nous pouvons le verser.',
  notice: 'Préavis de prélèvement',
  noticeText: (day, amount) =>
    `Le ${day}, nous prélèverons ${amount} sur votre compte pour les postes ci-dessous.`,
  mandate: 'Mandat',
  creditor: 'Identifiant créancier',
  debited: 'Compte débité',
  deducted: 'Déduit',
  collected: 'Prélevé',
  account: 'Prélèvement le',
}
const it: PaymentWords = {
  debtClaim: 'Insinuazione al passivo',
  debtClaimText: (debtor, day) =>
    `Nella procedura di insolvenza di ${debtor}, aperta il ${day}, insinuiamo i crediti seguenti.`,
  assignment: 'Avviso di cessione del credito',
  assignmentText: factor =>
    `Abbiamo ceduto le fatture seguenti a ${factor}. Vi preghiamo di pagarle, con effetto liberatorio, soltanto a tale società.`,
  payTo: 'Da pagare a',
  refund: 'Avviso di rimborso',
  refundText: how => `Vi rimborsiamo il credito indicato sotto ${how}.`,
  byTransfer: iban => `sul vostro conto ${iban}`,
  byCheque: number => `con l’assegno ${number} allegato`,
  byCard: 'sulla carta con cui avete pagato',
  inCash: 'in contanti',
  credit: 'Credito',
  unclaimed: 'Credito sul vostro conto',
  unclaimedText:
    'Il credito indicato sotto è da tempo sul vostro conto. Vi preghiamo di dirci a che cosa si riferisce, o dove possiamo versarlo.',
  notice: 'Preavviso di addebito diretto',
  noticeText: (day, amount) =>
    `Il ${day} addebiteremo ${amount} sul vostro conto per le partite indicate sotto.`,
  mandate: 'Mandato',
  creditor: 'Identificativo del creditore',
  debited: 'Conto addebitato',
  deducted: 'Detratto',
  collected: 'Addebito',
  account: 'Addebito il',
}
const es: PaymentWords = {
  debtClaim: 'Comunicación de créditos',
  debtClaimText: (debtor, day) =>
    `En el concurso de ${debtor}, declarado el ${day}, comunicamos los créditos siguientes.`,
  assignment: 'Aviso de cesión de créditos',
  assignmentText: factor =>
    `Hemos cedido las facturas siguientes a ${factor}. Rogamos las paguen, con efecto liberatorio, únicamente a esa sociedad.`,
  payTo: 'Pagar a',
  refund: 'Aviso de reembolso',
  refundText: how => `Le reembolsamos el saldo a su favor indicado abajo ${how}.`,
  byTransfer: iban => `en su cuenta ${iban}`,
  byCheque: number => `con el cheque ${number} adjunto`,
  byCard: 'en la tarjeta con la que pagó',
  inCash: 'en efectivo',
  credit: 'Saldo a favor',
  unclaimed: 'Saldo a su favor',
  unclaimedText:
    'El saldo a su favor indicado abajo lleva algún tiempo en su cuenta. Díganos, por favor, a qué corresponde o dónde podemos abonarlo.',
  notice: 'Notificación previa de adeudo directo',
  noticeText: (day, amount) =>
    `El ${day} cargaremos ${amount} en su cuenta por las partidas indicadas abajo.`,
  mandate: 'Mandato',
  creditor: 'Identificador del acreedor',
  debited: 'Cuenta de cargo',
  deducted: 'Deducido',
  collected: 'Adeudo',
  account: 'Adeudo el',
}
const no: PaymentWords = {
  debtClaim: 'Anmeldelse av krav',
  debtClaimText: (debtor, day) => `I insolvensen til ${debtor}, åpnet ${day}, anmelder vi kravene nedenfor.`,
  assignment: 'Melding om overdragelse',
  assignmentText: factor =>
    `Vi har overdratt fakturaene nedenfor til ${factor}. Vennligst betal dem med befriende virkning kun dit.`,
  payTo: 'Betales til',
  refund: 'Melding om tilbakebetaling',
  refundText: how => `Vi betaler tilbake tilgodehavendet nedenfor ${how}.`,
  byTransfer: iban => `til kontoen deres ${iban}`,
  byCheque: number => `med vedlagt sjekk ${number}`,
  byCard: 'til kortet dere betalte med',
  inCash: 'kontant',
  credit: 'Tilgodehavende',
  unclaimed: 'Tilgodehavende på kontoen deres',
  unclaimedText:
    'Tilgodehavendet nedenfor har stått på kontoen deres en stund. Fortell oss hva det gjelder, eller hvor vi kan betale det.',
  notice: 'Forhåndsvarsel om direkte debitering',
  noticeText: (day, amount) => `${day} trekker vi ${amount} fra kontoen deres for postene nedenfor.`,
  mandate: 'Mandat',
  creditor: 'Kreditoridentifikator',
  debited: 'Belastet konto',
  deducted: 'Fratrukket',
  collected: 'Trukket',
  account: 'Trekkes',
}
const ja: PaymentWords = {
  debtClaim: '債権届出書',
  debtClaimText: (debtor, day) => `${day}に開始された${debtor}の倒産手続において、下記の債権を届け出ます。`,
  assignment: '債権譲渡通知',
  assignmentText: factor => `下記の請求書は${factor}に譲渡されました。お支払いは同社にのみお願いいたします。`,
  payTo: 'お支払先',
  refund: '返金のご案内',
  refundText: how => `下記のお預り金を${how}返金いたします。`,
  byTransfer: iban => `貴社口座 ${iban} へ`,
  byCheque: number => `同封の小切手 ${number} にて`,
  byCard: 'お支払いに使われたカードへ',
  inCash: '現金にて',
  credit: 'お預り金',
  unclaimed: 'お預り金のご案内',
  unclaimedText: '下記のお預り金がしばらく前から残っております。内容またはお支払い先をお知らせください。',
  notice: '口座振替の事前通知',
  noticeText: (day, amount) => `${day} に下記の項目について ${amount} を貴社口座より引き落とします。`,
  mandate: '委任状',
  creditor: '債権者番号',
  debited: '引落口座',
  deducted: '差引額',
  collected: '引落額',
  account: '引落日',
}

const ALL: Record<string, PaymentWords> = { en, de, fr, it, es, no, nb: no, nn: no, ja }

export const paymentWordsOf = (language: string): PaymentWords => ALL[language] ?? en
