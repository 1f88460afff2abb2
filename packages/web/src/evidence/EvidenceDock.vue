<script setup lang="ts">
import type { Evidence } from '@axion/contract'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useFormat } from '../figures/format.ts'
import { call } from '../shell/api.ts'
import { useKeys } from '../shell/keyboard.ts'
import { useMonth } from '../shell/month.ts'
import { useReading } from '../shell/reading.ts'
import { useRuns } from '../shell/runs.ts'
import { useAttempt } from '../shell/useAttempt.ts'
import EvidenceChain from './EvidenceChain.vue'
import EvidenceMembers from './EvidenceMembers.vue'
import { useEvidence } from './useEvidence.ts'
import { nameOf } from './words.ts'
import RefusedNote from '../shell/RefusedNote.vue'

/** The evidence behind the amount that is open, docked across the full width; it can be enlarged, or stand in its own window. */
const props = defineProps<{ alone?: boolean }>()
const evidenceState = useEvidence()
const { api } = useMonth()
const runs = useRuns()
const route = useRoute()
const router = useRouter()
const format = useFormat()
const { view, refused: notRead } = useReading<Evidence>(() => {
  const open = evidenceState.open.value
  return open === null ? null : `${api.value}/evidence?open=${encodeURIComponent(open)}`
})
const { refused: notDone, attempt } = useAttempt()
const refused = computed(() => notRead.value ?? notDone.value)
const evidence = computed(() => (notRead.value ? null : view.value))
const chosen = ref(0)
const large = ref(false)
watch(evidence, () => (chosen.value = 0))

/** Has the document proved anew by a pull of what changed, though nothing of it did. */
const proveAnew = (unit: string): Promise<void> =>
  attempt(async () => {
    await call('POST', `${api.value}/evidence/doubt`, { unit })
    await runs.start('/pulls', { systemIds: null })
  })

const members = computed(() => (evidence.value?.kind === 'members' ? evidence.value.members : []))
function openMember(): void {
  const open = members.value[chosen.value]?.open
  if (open) evidenceState.show(open)
}
const move = (by: number) => () => {
  chosen.value = Math.min(Math.max(chosen.value + by, 0), members.value.length - 1)
}
useKeys(
  () =>
    evidenceState.open.value === null
      ? []
      : [
          { key: 'Escape', does: 'close the evidence', act: evidenceState.close },
          ...(members.value.length > 0
            ? [
                { key: 'Enter', does: 'open the chosen part', act: openMember },
                { key: 'j', does: 'next part', act: move(1) },
                { key: 'ArrowDown', does: 'next part', act: move(1) },
                { key: 'k', does: 'part before', act: move(-1) },
                { key: 'ArrowUp', does: 'part before', act: move(-1) },
              ]
            : []),
        ],
  { above: true },
)
const ownWindow = computed(
  () =>
    router.resolve({ name: 'evidence', params: route.params, query: { open: evidenceState.open.value } })
      .href,
)
</script>

<template>
  <section
    v-if="evidenceState.open.value !== null"
    class="dock"
    :class="{ large, alone: props.alone }"
    aria-label="Evidence"
  >
    <header>
      <h2 v-if="evidence">
        <b>{{ nameOf(evidence.selector) }}</b> {{ format.amount(evidence.amount) }} {{ evidence.currency }}
      </h2>
      <h2 v-else>{{ refused ? 'No evidence' : 'Reading the evidence' }}</h2>
      <span class="keys soft"><kbd>Esc</kbd> closes</span>
      <template v-if="!props.alone">
        <button type="button" class="plain" @click="large = !large">
          {{ large ? 'Smaller' : 'Larger' }}
        </button>
        <a class="plain" :href="ownWindow" target="_blank">Own window</a>
        <button type="button" class="plain" @click="evidenceState.close()">Close</button>
      </template>
    </header>
    <RefusedNote :refused="refused" />
    <EvidenceChain
      v-if="evidence?.kind === 'chain'"
      :evidence="evidence"
      @prove-anew="proveAnew(evidence.document.unit)"
      ><slot :evidence="evidence"
    /></EvidenceChain>
    <EvidenceMembers v-else-if="evidence?.kind === 'members'" :evidence="evidence" :chosen="chosen" />
  </section>
</template>

<style scoped>
.dock {
  position: fixed;
  left: 0;
  right: 0;
  bottom: 0;
  height: 290px;
  background: var(--sheet);
  border-top: 2px solid var(--plum);
  padding: 8px 20px 10px;
  display: flex;
  flex-direction: column;
  gap: 6px;
  z-index: 20;
  overflow: hidden;
}
.dock.large {
  height: min(72vh, 620px);
}
.dock.alone {
  position: static;
  height: auto;
  min-height: 290px;
  border-top: 0;
  background: none;
  padding: 0;
}
header {
  display: flex;
  gap: 14px;
  align-items: baseline;
}
h2 {
  flex: 1;
  font-size: 15px;
  color: var(--soft);
}
h2 b {
  font-weight: 600;
  color: var(--ink);
}
.dock > :deep(.chain),
.dock > :deep(.members) {
  flex: 1;
  min-height: 0;
  overflow: auto;
}
</style>
