<script setup lang="ts">
import type { TieOutRow, TieOutView } from '@axion/contract'
import { computed, ref, watch } from 'vue'
import { useRouter, type RouteLocationRaw } from 'vue-router'
import { selectorText } from '@axion/contract'
import { useMonth } from './month.ts'
import { PAGES } from './pages.ts'
import RefusedNote from './RefusedNote.vue'
import { useView } from './useView.ts'

/** Finds documents and parties of the month, agencies, and pages; Enter goes to the chosen one. */
const shown = defineModel<boolean>({ required: true })
const { entity, month } = useMonth()
const router = useRouter()
const text = ref('')
const chosen = ref(0)
interface Hit {
  readonly label: string
  readonly detail: string
  readonly to: RouteLocationRaw
}
/** What is not posted so far is there too, and is said to be so. */
const SHOWS = ['all', 'not-posted'] as const
const found = SHOWS.map((show) =>
  useView<TieOutView>(() =>
    text.value.trim().length < 2
      ? null
      : `/tie-out?show=${show}&limit=60&search=${encodeURIComponent(text.value.trim())}`,
  ),
)
const refused = computed(() => found.find((one) => one.refused.value)?.refused.value ?? null)
const documents = computed(() =>
  SHOWS.flatMap((show, at) =>
    (found[at]?.view.value?.rows ?? []).filter((row) => row.first).map((row) => hitOf(row, show)),
  ),
)
const params = computed(() => ({ entity: entity.value.id, month: month.value }))
const pages = computed(() =>
  PAGES.map((page) => ({
    label: page.label,
    detail: 'page',
    to: { name: page.name, params: { ...params.value, ...page.more } },
  })),
)
const hits = computed(() =>
  [
    ...pages.value.filter((page) => page.label.toLowerCase().includes(text.value.trim().toLowerCase())),
    ...documents.value,
  ].slice(0, 12),
)

watch(text, () => (chosen.value = 0))
watch(shown, () => (text.value = ''))

function hitOf(row: TieOutRow, show: string): Hit {
  return {
    label: row.number,
    detail: row.posted ? row.party : `${row.party}, not posted yet`,
    to: {
      name: 'tie-out',
      params: params.value,
      query: {
        show,
        search: row.number,
        open: selectorText({ of: 'tax', voice: 'expected', unit: row.unit }),
      },
    },
  }
}

function go(at: number): void {
  const hit = hits.value[at]
  if (!hit) return
  shown.value = false
  void router.push(hit.to)
}
</script>

<template>
  <v-dialog v-model="shown" max-width="560" aria-label="Find anything">
    <div class="dialog find">
      <v-text-field
        v-model="text"
        label="A document, a party, a page"
        autofocus
        @keydown.down.prevent="chosen = Math.min(chosen + 1, hits.length - 1)"
        @keydown.up.prevent="chosen = Math.max(chosen - 1, 0)"
        @keydown.enter.prevent="go(chosen)"
      />
      <RefusedNote :refused="refused" />
      <ul>
        <li v-for="(hit, at) in hits" :key="hit.label + hit.detail" :class="{ chosen: at === chosen }">
          <button type="button" @click="go(at)">
            <b>{{ hit.label }}</b> <span class="soft">{{ hit.detail }}</span>
          </button>
        </li>
        <li v-if="hits.length === 0" class="soft">Nothing in this month goes by that.</li>
      </ul>
    </div>
  </v-dialog>
</template>

<style scoped>
ul {
  list-style: none;
  padding: 0;
  margin: 10px 0 0;
}
li button {
  width: 100%;
  text-align: left;
  background: none;
  border: 0;
  padding: 5px 8px;
  cursor: pointer;
}
li.chosen button {
  background: var(--plum-wash);
  box-shadow: inset 3px 0 0 var(--plum);
}
</style>
