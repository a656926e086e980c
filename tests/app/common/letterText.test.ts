import fc from 'fast-check'
import { PLACEHOLDERS, saysOf, toDocument, toText } from '../../../app/utils/letterText'

/* The text of a letter in the editor and as it is kept. */

test('a text is the same after the editor held it, whatever it is made of', () => {
  const word = fc.constantFrom('Dear', 'Sie', 'é', 'a { b', '100 %', ...PLACEHOLDERS.map(p => p.token))
  const line = fc.array(word, { minLength: 1, maxLength: 5 }).map(words => words.join(' '))
  const paragraph = fc.array(line, { minLength: 1, maxLength: 3 }).map(lines => lines.join('\n'))
  fc.assert(
    fc.property(fc.array(paragraph, { minLength: 1, maxLength: 4 }), paragraphs => {
      const text = paragraphs.join('\n\n')
      expect(toText(toDocument(text))).toBe(text)
    }),
  )
})
test('placeholders and conditions are pieces of their own, called by what they mean', () => {
  expect(toDocument('Pay {{ total }}.\nThanks').content).toEqual([
    {
      type: 'paragraph',
      content: [
        { type: 'text', text: 'Pay ' },
        { type: 'placeholder', attrs: { token: '{{ total }}' } },
        { type: 'text', text: '.' },
        { type: 'hardBreak' },
        { type: 'text', text: 'Thanks' },
      ],
    },
  ])
  expect([saysOf('{{total}}'), saysOf('{% if has_fee %}'), saysOf('{{ other }}')]).toEqual([
    'total to pay',
    'if there is a fee:',
    'other',
  ])
})
