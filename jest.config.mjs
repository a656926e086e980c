const common = {
  transform: {
    '^.+\\.(t|m?j)s$': [
      process.env.BILANCIO_MUTANT ? '<rootDir>/tests/mutant.cjs' : '@swc/jest',
      { jsc: { parser: { syntax: 'typescript' }, target: 'es2022' }, module: { type: 'commonjs' } },
    ],
  },
  transformIgnorePatterns: [
    '/node_modules/(?!(@zip\\.js|bcryptjs|csv-parse|csv-stringify|ofx-js|iso20022\\.js|uuid|any-ascii|n2words|sepa)/)',
  ],
  moduleFileExtensions: ['ts', 'js', 'mjs', 'json'],
  testEnvironment: 'node',
}
export default {
  projects: [
    { ...common, displayName: 'core', testMatch: ['<rootDir>/tests/core/**/*.test.ts'] },
    {
      ...common,
      displayName: 'app',
      testMatch: ['<rootDir>/tests/app/**/*.test.ts'],
      moduleNameMapper: { '^~~/(.*)$': '<rootDir>/$1', '^~/(.*)$': '<rootDir>/app/$1' },
    },
    {
      ...common,
      displayName: 'server',
      testMatch: ['<rootDir>/tests/server/**/*.test.ts', '<rootDir>/tests/simulation/*.test.ts'],
      globalSetup: '<rootDir>/tests/server/start.mjs',
      globalTeardown: '<rootDir>/tests/server/stop.mjs',
    },
  ],
  testTimeout: 60_000,
  // Each suite has a database of its own: none minds the others.
  maxWorkers: '100%',
}
