/** What is outside and cannot be reached at present, so that a person is told where they wait for it. */
export const name = '0019-ports'

const code = 'CHARACTER SET ascii COLLATE ascii_bin'

export const up = [
  `CREATE TABLE port_fault (
    port VARCHAR(16) ${code} NOT NULL PRIMARY KEY,
    says VARCHAR(300) NOT NULL,
    since DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3))`,
]
