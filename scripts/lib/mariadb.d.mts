/** Types of `mariadb.mjs` for those who import it from TypeScript. */
export function freePort(wanted?: number): Promise<number>
