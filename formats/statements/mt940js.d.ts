declare module 'mt940js' {
  interface Transaction {
    date: Date
    entryDate?: Date
    amount: number
    currency: string
    details: string
    transactionType: string
    reference: string
    bankReference?: string
    structuredDetails?: Record<string, string>
  }
  interface Mt940Statement {
    transactionReference: string
    accountIdentification: string
    number?: { statement: string; sequence: string }
    openingBalanceDate: Date
    closingBalanceDate: Date
    currency: string
    openingBalance: number
    closingBalance: number
    transactions: Transaction[]
  }
  export class Parser {
    parse(text: string): Mt940Statement[]
  }
}
