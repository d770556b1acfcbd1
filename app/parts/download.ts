/** Lets the browser save bytes as a file. */
export function download(name: string, bytes: BlobPart, type: string) {
  const url = URL.createObjectURL(new Blob([bytes], { type }))
  const link = document.createElement('a')
  link.href = url
  link.download = name.replace(/[\\/:*?"<>|]+/g, '-')
  link.click()
  setTimeout(() => URL.revokeObjectURL(url), 10_000)
}
