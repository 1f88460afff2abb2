<script setup lang="ts">
import type { PostView } from '@axion/contract'
import { computed } from 'vue'
import { useFormat } from '../figures/format.ts'
import { call } from '../shell/api.ts'
import { useMonth } from '../shell/month.ts'
import RefusedNote from '../shell/RefusedNote.vue'
import { useAttempt } from '../shell/useAttempt.ts'

/** A backup was brought back: what was sent after it was taken is not known here, and what ends that. */
const props = defineProps<{ restored: NonNullable<PostView['restored']>; ledger: PostView['ledger'] }>()
const { api, changed, entity, month } = useMonth()
const format = useFormat()
const { busy, refused, attempt } = useAttempt()
const may = computed(() => entity.value.role !== 'viewer')
const name = computed(() => props.ledger?.name ?? 'the ledger')
const looked = (): Promise<void> =>
  attempt(async () => {
    await call('POST', `${api.value}/post/looked`, {})
    await changed()
  })
</script>

<template>
  <RefusedNote :refused="refused" />
  <p class="note bad" data-restored>
    <b>A backup was brought back (noticed {{ format.instant(restored.at) }}):</b> what was sent after it was
    taken is not known here, so each booking is looked up in {{ name }} before it is sent.
    <template v-if="restored.ends === 'pull'"
      >A pull of every system that begins now shows what is there:
      <RouterLink :to="{ name: 'connect', params: { entity: entity.id, month } }"
        >pull all in Connect</RouterLink
      >.</template
    >
    <template v-else
      >{{ name }} does not say how late it may still book: pull it, then look there for what this page calls
      in doubt.
      <button v-if="may" class="plain" type="button" :disabled="busy" @click="looked">
        I looked: what stands there stands here
      </button></template
    >
  </p>
</template>
