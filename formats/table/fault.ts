/** A file that is no table. */
export class TableFault extends Error {
  constructor(
    message: string,
    readonly satisfy: string,
  ) {
    super(message)
  }
}
