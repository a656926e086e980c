import { z } from 'zod'
import { operation } from '../../../contract/operation'
import { checkAnswer } from '../../../server/utils/answer'

const asked = operation({
  method: 'get',
  path: '/api/somewhere',
  summary: '',
  ability: null,
  response: z.object({
    name: z.string(),
    items: z.array(z.object({ id: z.int(), until: z.string().optional() })),
  }),
})

test('an answer as the contract says it passes, also with what may be left out', () => {
  expect(() =>
    checkAnswer(asked, { name: 'a', items: [{ id: 1 }, { id: 2, until: undefined }] }),
  ).not.toThrow()
})

test.each([
  ['a field of another kind', { name: 1, items: [] }, /not what its schema says/],
  ['a field that is missing', { items: [] }, /not what its schema says/],
  ['a field that the contract does not know', { name: 'a', items: [], more: 1 }, /does not know: more$/],
  [
    'one deep inside',
    { name: 'a', items: [{ id: 1 }, { id: 2, role: 'x' }] },
    /does not know: items\.1\.role$/,
  ],
  ['nothing at all', undefined, /not what its schema says/],
])('%s does not', (_, answer, says) => {
  expect(() => checkAnswer(asked, answer)).toThrow(says)
})
