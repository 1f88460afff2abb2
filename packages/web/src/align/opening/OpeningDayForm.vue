<script setup lang="ts">
import type { OpeningPreview, ScopeAmount } from '@axion/contract'
import { computed, ref, watch } from 'vue'
import { count, useFormat } from '../../figures/format.ts'
import { call } from '../../shell/api.ts'
import { useMonth } from '../../shell/month.ts'
import RefusedNote from '../../shell/RefusedNote.vue'
import { begun, useRuns } from '../../shell/runs.ts'
import { useAttempt } from '../../shell/useAttempt.ts'

/** From which month on documents are for the books; what another would move is seen before it is kept. */
const props = defineProps<{ day: string | null; setBy: string | null }>()
const { api, changed, entity } = useMonth()
const { busy, refused, attempt } = useAttempt()
const runs = useRuns()
const format = useFormat()
const wanted = ref('')
const preview = ref<OpeningPreview | null>(null)
const may = computed(() => entity.value.role === 'administrator')
const stands = computed(() => props.day?.slice(0, 7) ?? '')
watch(stands, (now) => (wanted.value = now), { immediate: true })
watch(wanted, () => (preview.value = null))
const chosen = computed(() => (wanted.value === '' ? null : `${wanted.value}-01`))
const look = (): Promise<void> =>
  attempt(
    async () =>
      void (preview.value = await call<OpeningPreview>('POST', `${api.value}/opening/preview`, {
        day: chosen.value,
      })),
  )
const keep = (): Promise<void> =>
  attempt(async () => {
    const { run } = await call<{ run: string }>('PUT', `${api.value}/opening`, {
      day: chosen.value,
      revision: preview.value?.revision,
    })
    preview.value = null
    runs.follow(begun(run, 'pull'))
    await changed()
  })
const say = ({ documents, tax }: ScopeAmount, currency: string): string =>
  `${count(documents, 'document')}${tax === null ? '' : ` with ${format.value.figure(tax)} ${currency} of tax`}`
</script>

<template>
  <form class="day" data-opening-day @submit.prevent="look">
    <label
      >The books open here with
      <input v-model="wanted" type="month" :disabled="!may || busy" :required="stands === ''" data-opens
    /></label>
    <button v-if="may && wanted !== stands" class="do" type="submit" :disabled="busy">
      See what that moves
    </button>
    <span v-if="chosen && wanted === stands" class="soft"
      >What is dated before {{ format.longDay(chosen) }} is read for reference, and not for the books. Said by
      {{ setBy }}</span
    >
    <span v-else-if="!may" class="soft">An administrator says so</span>
    <RefusedNote :refused="refused" />
    <p v-if="preview" class="moves" data-opening-preview>
      <template v-if="preview.leaves.documents > 0"
        >{{ say(preview.leaves, preview.currency) }} leave the books.{{ ' ' }}</template
      >
      <template v-if="preview.comes.documents > 0"
        >{{ say(preview.comes, preview.currency) }} come to them.{{ ' ' }}</template
      >
      <template v-if="preview.staysBooked.documents > 0"
        >{{ say(preview.staysBooked, preview.currency) }} are booked already, and stay so.{{ ' ' }}</template
      >
      <template v-if="preview.leaves.documents + preview.comes.documents === 0"
        >No document moves.{{ ' ' }}</template
      >
      <template v-if="preview.lists > 0"
        >{{ count(preview.lists, 'list') }} that {{ preview.lists === 1 ? 'is' : 'are' }} kept
        {{ preview.lists === 1 ? 'is' : 'are' }} held against what the ledger had then.{{ ' ' }}</template
      >
      <button class="do" type="button" :disabled="busy" data-keep-opening @click="keep">
        {{ chosen ? `Open the books on ${format.longDay(chosen)}` : 'Take all there is for the books' }}
      </button>
    </p>
  </form>
</template>

<style scoped>
.day {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 14px;
  align-items: center;
  margin: 4px 0 10px;
  font-size: 14.5px;
}
.day input {
  font: inherit;
  border: 1px solid var(--hair);
  background: var(--sheet);
  color: var(--ink);
  padding: 2px 8px;
}
.moves {
  flex-basis: 100%;
  margin: 0;
  padding: 8px 10px;
  background: var(--sheet);
  border: 1px solid var(--rule);
}
</style>
