<script setup lang="ts">
import type { AlignKind, GridNames, GridRow } from '@axion/contract'
import { computed, ref } from 'vue'
import { call } from '../shell/api.ts'
import { useMonth } from '../shell/month.ts'
import { EVIDENCE_WORDS } from './words.ts'

/** What a system's object is to be linked to: its candidates first, then what the baseline has that its name finds, or all of it. */
const props = defineProps<{ row: GridRow; kind: AlignKind }>()
const emit = defineEmits<{ link: [baselineId: string] }>()
const { api } = useMonth()
const candidates = computed(() => props.row.extra?.candidates ?? [])
const found = ref<GridNames['names']>([])
const target = ref<string | null>(null)
const chosen = computed(() => target.value ?? (candidates.value.length === 1 ? candidates.value[0]?.id : undefined) ?? '')
let asked = false

/** Names are read when somebody reaches for them, not for every row. */
async function read(): Promise<void> {
  if (asked) return
  asked = true
  found.value = (await call<GridNames>('GET', `${api.value}/align/${props.kind}/names`)).names
}
const others = computed(() => found.value.filter((name) => !candidates.value.some((c) => c.id === name.id)))
</script>

<template>
  <span class="choice" @click.stop>
    <select :value="chosen" :aria-label="`What ${row.name} is`" @focus="read" @mousedown="read" @change="target = ($event.target as HTMLSelectElement).value">
      <option value="" disabled>choose what it is</option>
      <option v-for="c in candidates" :key="c.id" :value="c.id">{{ c.name }}</option>
      <option v-for="name in others" :key="name.id" :value="name.id">{{ name.name }}</option>
    </select>
    <button class="do small" type="button" :disabled="chosen === ''" @click="emit('link', chosen)">Link</button>
    <span v-if="candidates[0]" class="soft why" :title="candidates[0].evidence.map((e) => EVIDENCE_WORDS[e]).join(', ')">{{ candidates.length > 1 ? `${candidates.length} candidates` : candidates[0].evidence.map((e) => EVIDENCE_WORDS[e]).join(', ') }}</span>
  </span>
</template>

<style scoped>
.choice { display: flex; gap: 8px; align-items: center; }
select { flex: 1 1 auto; min-width: 0; max-width: 190px; font: inherit; font-size: 14px; background: var(--sheet); color: var(--ink); border: 1px solid var(--hair); height: 25px; }
.small { min-height: 25px; padding: 0 10px; }
.why { flex: 0 2 auto; min-width: 0; white-space: nowrap; overflow: hidden; text-overflow: ellipsis; }
</style>
