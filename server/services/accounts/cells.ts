import { z } from 'zod'
import { FIELD_NAMES, type Field } from '../../../core/accounts'

const value = z.union([z.string(), z.number().int()]).nullable()

/** The fields of a master as they are read, each by its name in core: text, a day or minor units. */
export const fieldCells = Object.fromEntries(FIELD_NAMES.map(field => [field, value])) as Record<
  Field,
  typeof value
>
