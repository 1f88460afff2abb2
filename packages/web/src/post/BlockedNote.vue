<script setup lang="ts">
import type { PostView } from '@axion/contract'
import { computed } from 'vue'
import { call } from '../shell/api.ts'
import { useMonth } from '../shell/month.ts'
import RefusedNote from '../shell/RefusedNote.vue'
import { useAttempt } from '../shell/useAttempt.ts'

/** What holds posting up, and the way on: a month that nobody looked at is checked from here. */
defineProps<{ view: Pick<PostView, 'blocking' | 'unchecked'> }>()
const { api, changed, entity } = useMonth()
const { busy, refused, attempt } = useAttempt()
const may = computed(() => entity.value.role !== 'viewer')
const check = (): Promise<void> =>
  attempt(async () => {
    await call('POST', `${api.value}/checks`)
    await changed()
  })
</script>

<template>
  <RefusedNote :refused="refused" />
  <p class="note bad" data-blocking>
    <b>Nothing is posted while a check fails:</b> {{ view.blocking.join(' ') }}{{ ' ' }}
    <button v-if="view.unchecked && may" class="plain" type="button" :disabled="busy" @click="check">
      Check them now
    </button>
    <RouterLink v-else :to="{ name: 'connect' }">Mend it in Connect</RouterLink>
  </p>
</template>
