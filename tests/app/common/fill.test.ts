import fc from 'fast-check'
import { ref } from 'vue'
import { fill, newest, put, settle } from '../../../app/utils/fill'

/** An answer that comes when somebody says so. */
function later<T>() {
  let give!: (answer: T) => void
  let refuse!: (error: Error) => void
  const answer = new Promise<T>((resolve, reject) => {
    give = resolve
    refuse = reject
  })
  return { answer, give, refuse }
}

test('an answer is shown; a later question is not overwritten by the answer to an earlier one', async () => {
  const shown = ref('')
  const [first, second] = [later<string>(), later<string>()]
  const both = [fill(shown, () => first.answer), fill(shown, () => second.answer)]
  second.give('second')
  await both[1]
  first.give('first')
  await both[0]
  expect(shown.value).toBe('second')
})

test('what a person typed since the question stays', async () => {
  const shown = ref({ text: '' })
  const answer = later<{ text: string }>()
  const filled = fill(shown, () => answer.answer)
  shown.value.text = 'typed'
  answer.give({ text: 'from the server' })
  await filled
  expect(shown.value.text).toBe('typed')
})

test('after something was put there it is asked again', async () => {
  const shown = ref<string[]>([])
  const [first, second] = [later<string[]>(), later<string[]>()]
  const answers = [first, second]
  const filled = fill(shown, () => answers.shift()!.answer)
  put(shown, now => ['scan', ...now])
  first.give(['old'])
  await Promise.resolve()
  expect(shown.value).toEqual(['scan'])
  second.give(['scan', 'old'])
  await filled
  expect(shown.value).toEqual(['scan', 'old'])
})

test('a question that nobody waits for any more fails in silence, the newest aloud', async () => {
  const shown = ref('')
  const [first, second] = [later<string>(), later<string>()]
  const old = fill(shown, () => first.answer)
  const now = fill(shown, () => second.answer)
  first.refuse(new Error('old'))
  await expect(old).resolves.toBeUndefined()
  second.refuse(new Error('now'))
  await expect(now).rejects.toThrow('now')
})

test('the answer of a change is shown, and a list asked for before it comes too late', async () => {
  const shown = ref('')
  const [list, change] = [later<string>(), later<string>()]
  const both = [fill(shown, () => list.answer), settle(shown, () => change.answer)]
  change.give('changed')
  await both[1]
  list.give('as before')
  await both[0]
  expect(shown.value).toBe('changed')
  const asking = newest()
  const [earlier, later_] = [asking(), asking()]
  expect([earlier(), later_()]).toEqual([false, true])
})

/** The server's list, asked for and added to, each answer as late as chance will have it. */
test('whatever comes late: in the end all stands there that was put, and nothing else', async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.scheduler(),
      fc.array(fc.constantFrom('read', 'add'), { minLength: 1, maxLength: 12 }),
      async (scheduler, acts) => {
        const server: string[] = ['there before']
        const shown = ref<string[]>([])
        const list = async () => {
          await scheduler.schedule(Promise.resolve(), 'question')
          const now = [...server]
          await scheduler.schedule(Promise.resolve(), 'answer')
          return now
        }
        const add = async (name: string) => {
          await scheduler.schedule(Promise.resolve(), 'asked')
          server.push(name)
          await scheduler.schedule(Promise.resolve(), 'added')
          put(shown, own => [...own, name])
        }
        const done = [
          fill(shown, list),
          ...acts.map((act, i) => (act === 'read' ? fill(shown, list) : add(`scan ${i}`))),
        ]
        await scheduler.waitFor(Promise.all(done))
        expect(new Set(shown.value)).toEqual(new Set(server))
      },
    ),
    { numRuns: 300 },
  )
})
