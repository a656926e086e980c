// The transform of the tests while `npm run mutate` looks whether anybody notices a change: one place of one
// file reads otherwise (see scripts/mutate.mjs). The sources themselves are never touched.
const swc = require('@swc/jest')

const mutant = JSON.parse(process.env.BILANCIO_MUTANT)
const changed = (source, file) =>
  file === mutant.file ? source.slice(0, mutant.start) + mutant.text + source.slice(mutant.end) : source

module.exports = {
  createTransformer(options) {
    const plain = swc.createTransformer(options)
    return {
      ...plain,
      process: (source, file, how) => plain.process(changed(source, file), file, how),
      getCacheKey: (source, file, how) => plain.getCacheKey(changed(source, file), file, how),
    }
  },
}
