export { TableFault } from './fault'
export { readSheet, encodingOf, type Cell, type Sheet } from './read'
export { guessImport, dateOrderOf, decimalOf, type Guess, type ImportKind, type ImportMap } from './guess'
export { amountOf, convertSheet, countryOf, dayOf, termsOf, type Converted } from './convert'
