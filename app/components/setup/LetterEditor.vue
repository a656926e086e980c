<script setup lang="ts">
import { Node } from '@tiptap/core'
import Document from '@tiptap/extension-document'
import HardBreak from '@tiptap/extension-hard-break'
import Paragraph from '@tiptap/extension-paragraph'
import Text from '@tiptap/extension-text'
import { UndoRedo } from '@tiptap/extensions'
import { EditorContent, useEditor } from '@tiptap/vue-3'
import { watch } from 'vue'
import { PLACEHOLDERS, saysOf, toDocument, toText } from '~/utils/letterText'

/** The text of a letter: typed freely, its placeholders put in whole from a list. */
const props = defineProps<{ label: string; disabled: boolean }>()
const text = defineModel<string>({ required: true })

const Placeholder = Node.create({
  name: 'placeholder',
  group: 'inline',
  inline: true,
  atom: true,
  addAttributes: () => ({ token: { default: '' } }),
  parseHTML: () => [{ tag: 'span[data-token]', getAttrs: e => ({ token: e.dataset.token ?? '' }) }],
  renderHTML: ({ node }) => {
    const token = String(node.attrs.token)
    return ['span', { 'data-token': token, class: 'letter-piece', title: token }, saysOf(token)]
  },
})

const editor = useEditor({
  extensions: [Document, Paragraph, Text, HardBreak, UndoRedo, Placeholder],
  content: toDocument(text.value),
  editable: !props.disabled,
  editorProps: {
    attributes: {
      'aria-label': props.label,
      'aria-multiline': 'true',
      role: 'textbox',
      class: 'letter-text',
    },
  },
  onUpdate: ({ editor: now }) => {
    text.value = toText(now.getJSON())
  },
})
// Another language was chosen, or the policy was read again.
watch(text, now => {
  if (editor.value && toText(editor.value.getJSON()) !== now)
    editor.value.commands.setContent(toDocument(now))
})
function put(token: string): void {
  if (token) editor.value?.chain().focus().insertContent({ type: 'placeholder', attrs: { token } }).run()
}
</script>

<template>
  <div>
    <select
      v-if="!disabled"
      class="field mb-1 text-soft"
      :aria-label="`Put a placeholder into: ${label}`"
      value=""
      @change="
        $event => {
          const select = $event.target as HTMLSelectElement
          put(select.value)
          select.value = ''
        }
      "
    >
      <option value="">Put in …</option>
      <option v-for="p in PLACEHOLDERS" :key="p.token" :value="p.token">{{ p.says }}</option>
    </select>
    <EditorContent :editor="editor" />
  </div>
</template>
