import type { AlignKind, BulkAction, BulkInput, GridRow } from '@axion/contract'
import { computed, ref, shallowRef, watch, type ComputedRef, type Ref } from 'vue'
import { useRoute } from 'vue-router'

export interface Selection {
  readonly ids: Ref<ReadonlySet<string>>
  /** All that the filter leaves, read or not. */
  readonly all: Readonly<Ref<boolean>>
  readonly some: ComputedRef<boolean>
  has(id: string): boolean
  toggle(row: GridRow | null): void
  /** Selects all that the filter leaves. */
  everything(): void
  clear(): void
  request(action: BulkAction, reason?: string): BulkInput
}

/** Which rows are selected: one by one, or all that the filter leaves. Another grid or filter begins anew. */
export function useSelection(kind: () => AlignKind): Selection {
  const route = useRoute()
  const ids = shallowRef<ReadonlySet<string>>(new Set())
  const all = ref(false)
  const filter = computed(
    () =>
      Object.fromEntries(
        Object.entries(route.query).filter(([key]) => ['search', 'only', 'code', 'system'].includes(key)),
      ) as Record<string, string>,
  )
  const clear = (): void => {
    ids.value = new Set()
    all.value = false
  }
  watch(() => `${kind()} ${JSON.stringify(filter.value)}`, clear)
  return {
    ids,
    all,
    clear,
    everything: () => (all.value = true),
    some: computed(() => all.value || ids.value.size > 0),
    has: (id) => all.value || ids.value.has(id),
    toggle: (row) => {
      if (!row) return
      const next = new Set(all.value ? [] : ids.value)
      all.value = false
      if (!next.delete(row.id)) next.add(row.id)
      ids.value = next
    },
    request: (action, reason) => ({
      kind: kind(),
      action,
      systemId: null,
      reason: reason ?? null,
      rows: all.value ? { filter: filter.value as never } : { ids: [...ids.value] },
    }),
  }
}
