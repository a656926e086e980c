import { ProblemError } from '../common/problems'

/** Somebody else was quicker. */
export const changedMeanwhile = (id: number) =>
  new ProblemError(409, 'Changed meanwhile', `dispute ${id} was changed or resolved meanwhile: read it again`)
