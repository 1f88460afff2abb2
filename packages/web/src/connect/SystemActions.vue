<script setup lang="ts">
import type { ConnectView } from '@axion/contract'
import { ref } from 'vue'
import { call } from '../shell/api.ts'
import { useMonth } from '../shell/month.ts'
import RefusedNote from '../shell/RefusedNote.vue'
import { useAttempt } from '../shell/useAttempt.ts'
import ConnectForm from './ConnectForm.vue'

/** What an administrator does with a connected system: another address or token, and taking it off. */
const props = defineProps<{ system: ConnectView['systems'][number] }>()
const { changed, entity } = useMonth()
const { busy, refused, attempt } = useAttempt()
const doing = ref<'anew' | 'off' | null>(null)
const takeOff = (): Promise<void> =>
  attempt(async () => {
    await call('DELETE', `/api/entities/${entity.value.id}/systems/${props.system.id}`)
    doing.value = null
    await changed()
  })
</script>

<template>
  <div class="actions">
    <p v-if="doing === null" class="row">
      <button v-if="!system.byFiles" class="plain" type="button" @click="doing = 'anew'">
        Address or token
      </button>
      <button class="plain" type="button" :aria-label="`Take ${system.name} off`" @click="doing = 'off'">
        Take off
      </button>
    </p>
    <ConnectForm
      v-else-if="doing === 'anew'"
      :of="{ id: system.id, role: system.role, name: system.name, address: system.bridgeAddress }"
      @done="doing = null"
    />
    <div v-else class="note" role="group" :aria-label="`Take ${system.name} off`">
      <p>
        Nothing is asked of {{ system.name }} any more, and what it sent leaves Align, Post and Tie out. All
        that is known of it is kept; connected again under its name, it goes on.
      </p>
      <p class="row">
        <button class="do first" type="button" :disabled="busy" @click="takeOff">
          Take {{ system.name }} off
        </button>
        <button class="do" type="button" @click="doing = null">Leave it</button>
      </p>
    </div>
    <RefusedNote :refused="refused" />
  </div>
</template>

<style scoped>
.actions {
  font-size: 14px;
}
.actions :deep(.connecting) {
  grid-template-columns: minmax(0, 1fr);
}
.row {
  display: flex;
  gap: 14px;
}
.note .row {
  margin-top: 8px;
}
</style>
