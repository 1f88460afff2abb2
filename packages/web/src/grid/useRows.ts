import { computed, nextTick, type ComputedRef } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useKeys } from '../shell/keyboard.ts'

export interface Rows<T> {
  readonly chosen: ComputedRef<number>
  readonly row: ComputedRef<T | null>
  choose(at: number): void
}

/** A list's chosen row: kept in the address, moved with j and k or the arrows, opened with Enter. */
export function useRows<T>(
  rows: () => readonly T[],
  keyOf: (row: T) => string,
  open: (row: T) => void,
): Rows<T> {
  const route = useRoute()
  const router = useRouter()
  const chosen = computed(() => rows().findIndex((row) => keyOf(row) === route.query['row']))
  const row = computed(() => rows()[chosen.value] ?? null)
  function choose(at: number): void {
    const target = rows()[Math.min(Math.max(at, 0), rows().length - 1)]
    if (!target) return
    void router
      .replace({ query: { ...route.query, row: keyOf(target) } })
      .then(() => nextTick())
      .then(() => document.querySelector('tr.chosen')?.scrollIntoView({ block: 'nearest' }))
  }
  const openChosen = (): void => {
    if (row.value) open(row.value)
  }
  useKeys(() => [
    { key: 'j', does: 'next row', act: () => choose(chosen.value + 1) },
    { key: 'ArrowDown', does: 'next row', act: () => choose(chosen.value + 1) },
    { key: 'k', does: 'row before', act: () => choose(chosen.value - 1) },
    { key: 'ArrowUp', does: 'row before', act: () => choose(chosen.value - 1) },
    { key: 'Enter', does: 'open the evidence', act: openChosen },
  ])
  return { chosen, row, choose }
}
