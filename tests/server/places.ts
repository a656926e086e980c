/** The day of the tests' Clock. */
export const TODAY = '2026-11-16'

/** The books that each suite begins with: the database that they are dumped from. */
export const TEMPLATE = 'template_books'
export const CREATED = 'CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci'

/** Where the databases of the tests are, and their owner. */
export const urlOf = (name: string): string =>
  process.env.TEST_DATABASE_URL!.replace(/\/bilancio$/, `/${name}`)
