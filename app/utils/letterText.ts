import type { JSONContent } from '@tiptap/core'

/*
 * The text of a letter as it is kept (paragraphs apart by an empty line, placeholders in the safe template
 * language) and as the editor holds it: each placeholder or condition is one piece that cannot be mistyped.
 */

export interface Placeholder {
  token: string
  says: string
}

/** What may stand in a letter. */
export const PLACEHOLDERS: readonly Placeholder[] = [
  { token: '{{ customer }}', says: 'customer' },
  { token: '{{ contact | default: customer }}', says: 'contact or customer' },
  { token: '{{ number }}', says: 'number of the notice' },
  { token: '{{ total }}', says: 'total to pay' },
  { token: '{{ fee }}', says: 'fee' },
  { token: '{{ interest }}', says: 'interest' },
  { token: '{{ deadline }}', says: 'deadline' },
  { token: '{{ date }}', says: 'date' },
  { token: '{{ items }}', says: 'number of items' },
  { token: '{{ company }}', says: 'our name' },
  { token: '{% if has_fee %}', says: 'if there is a fee:' },
  { token: '{% if has_interest %}', says: 'if there is interest:' },
  { token: '{% if items == 1 %}', says: 'if it is one item:' },
  { token: '{% else %}', says: 'otherwise:' },
  { token: '{% endif %}', says: 'end of if' },
]

/** What a piece is called; one that is not in the list shows itself. */
export const saysOf = (token: string): string =>
  PLACEHOLDERS.find(p => p.token.replace(/\s/g, '') === token.replace(/\s/g, ''))?.says ??
  token.replace(/[{}%]/g, '').trim()

const TOKEN = /(\{\{.*?\}\}|\{%.*?%\})/s

function inline(text: string): JSONContent[] {
  return text.split('\n').flatMap((line, n) => [
    ...(n ? [{ type: 'hardBreak' }] : []),
    ...line
      .split(TOKEN)
      .filter(Boolean)
      .map((part): JSONContent =>
        TOKEN.test(part) ? { type: 'placeholder', attrs: { token: part } } : { type: 'text', text: part },
      ),
  ])
}

export function toDocument(text: string): JSONContent {
  return {
    type: 'doc',
    content: text.split(/\n{2,}/).map(paragraph => ({ type: 'paragraph', content: inline(paragraph) })),
  }
}

export function toText(document: JSONContent): string {
  return (document.content ?? [])
    .map(paragraph =>
      (paragraph.content ?? [])
        .map(node =>
          node.type === 'hardBreak'
            ? '\n'
            : node.type === 'placeholder'
              ? String(node.attrs?.token ?? '')
              : (node.text ?? ''),
        )
        .join(''),
    )
    .join('\n\n')
}
