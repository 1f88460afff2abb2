<script setup lang="ts">
import type { PostView } from '@axion/contract'
import { computed } from 'vue'
import { call } from '../shell/api.ts'
import { useMonth } from '../shell/month.ts'
import RefusedNote from '../shell/RefusedNote.vue'
import { useAttempt } from '../shell/useAttempt.ts'

/** What holds posting up, and the way on: a month that nobody looked at is checked from here. */
const props = defineProps<{ view: Pick<PostView, 'blocking' | 'unchecked'> }>()
const { api, changed, entity } = useMonth()
const { busy, refused, attempt } = useAttempt()
const may = computed(() => props.view.unchecked && entity.value.role !== 'viewer')
/** What a check by itself does not mend is mended elsewhere. */
const elsewhere = computed(() => !may.value || props.view.blocking.length > 1)
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
    <button v-if="may" class="plain" type="button" :disabled="busy" @click="check">Check them now</button
    >{{ ' ' }}
    <RouterLink v-if="elsewhere" :to="{ name: 'connect' }">Mend it in Connect</RouterLink>
  </p>
</template>
