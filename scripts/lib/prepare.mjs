// prepare packages | build: what a start needs first, done by one of several at a time (see project.mjs).
import { buildNow, failed, installPackagesNow } from './project.mjs'

try {
  ;({ packages: installPackagesNow, build: buildNow })[process.argv[2]]()
} catch (error) {
  failed(error)
}
