/** Hands a text to the browser as a file to be saved. */
export function saveText(name: string, text: string): void {
  const link = document.createElement('a')
  // The mark tells spreadsheets that it is UTF-8.
  link.href = URL.createObjectURL(new Blob(['\ufeff', text], { type: 'text/csv;charset=utf-8' }))
  link.download = name
  link.click()
  URL.revokeObjectURL(link.href)
}
