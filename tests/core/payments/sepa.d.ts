declare module 'sepa' {
  // The package has no types of its own; what the tests use of it.
  // eslint-disable-next-line @typescript-eslint/no-explicit-any
  const sepa: any
  export default sepa
}
