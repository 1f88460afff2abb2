import { onBeforeUnmount, onMounted } from 'vue'

/** A key of a page, and what it does; the list of keys is made from these. */
export interface Key {
  readonly key: string
  readonly does: string
  readonly act: () => void
}

interface Layer {
  readonly keys: () => readonly Key[]
  readonly above: boolean
}
const layers: Layer[] = []

/** Keys that hold while the component is there. What lies above the page is asked first, then the youngest layer. */
export function useKeys(keys: () => readonly Key[], { above = false } = {}): void {
  const layer = { keys, above }
  onMounted(() => layers.push(layer))
  onBeforeUnmount(() => void layers.splice(layers.indexOf(layer), 1))
}

export function allKeys(): Key[] {
  const seen = new Set<string>()
  const inOrder = [...layers].reverse().sort((a, b) => Number(b.above) - Number(a.above))
  return inOrder.flatMap((layer) => layer.keys()).filter((key) => !seen.has(key.key) && seen.add(key.key))
}

const SEQUENCE_MS = 1500
const TYPING = 'input, textarea, select, [contenteditable], [role="listbox"]'

/** Listens for keys, "g c" being one after the other; leaves typing, dialogs and the browser's own keys alone. */
export function listenForKeys(): () => void {
  let first: { key: string; at: number } | null = null
  const onKey = (event: KeyboardEvent): void => {
    if (event.altKey || event.metaKey) return
    const target = event.target as HTMLElement
    const inDialog = target.closest('[role="dialog"]') !== null
    const pressed = event.ctrlKey ? `Ctrl+${event.key.toUpperCase()}` : event.key
    if (!event.ctrlKey && (target.closest(TYPING) || inDialog)) return
    if (event.key === 'Enter' && target.closest('button, a')) return
    const sequence = first && event.timeStamp - first.at < SEQUENCE_MS ? `${first.key} ${pressed}` : pressed
    first = pressed === 'g' ? { key: 'g', at: event.timeStamp } : null
    const key = allKeys().find((k) => k.key === sequence)
    if (!key) return
    event.preventDefault()
    key.act()
  }
  window.addEventListener('keydown', onKey)
  return () => window.removeEventListener('keydown', onKey)
}
