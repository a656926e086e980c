import { z } from 'zod'
import { id } from './common'
import { operation } from './operation'

/** Screens whose lists can be kept as somebody wants to see them again. */
export const VIEW_SCREENS = ['aging', 'accounts'] as const
const screen = z.enum(VIEW_SCREENS)

const value = z.union([z.string().max(200), z.number(), z.boolean(), z.array(z.string().max(60)).max(40)])
export const viewState = z
  .record(z.string().max(40), value)
  .refine(state => Object.keys(state).length <= 40, { error: 'a view keeps at most 40 settings' })
  .describe('what the screen keeps: filters, order, columns')

const view = z.object({
  id: z.int(),
  name: z.string(),
  shared: z.boolean(),
  mine: z.boolean(),
  by: z.string(),
  state: viewState,
})
export type View = z.infer<typeof view>
export type ViewState = z.infer<typeof viewState>

/** Views of lists: one's own, and those that others share. */
export const views = {
  list: operation({
    method: 'get',
    path: '/api/views',
    summary: 'Views of a list: one’s own first, then those that others share',
    ability: 'read',
    query: z.object({ screen }),
    response: z.object({ items: z.array(view) }),
  }),
  save: operation({
    method: 'post',
    path: '/api/views',
    summary: 'Keep a view by its name; one of the same name is changed',
    ability: 'read',
    body: z.object({
      screen,
      name: z.string().trim().min(1, { error: 'write a name' }).max(60),
      shared: z.boolean().default(false),
      state: viewState,
    }),
    response: view,
    status: 201,
  }),
  remove: operation({
    method: 'delete',
    path: '/api/views/{id}',
    summary: 'Remove a view of one’s own',
    ability: 'read',
    params: z.object({ id }),
    response: z.object({ removed: z.boolean() }),
  }),
}
