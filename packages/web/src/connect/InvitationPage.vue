<script setup lang="ts">
import type { AskedView, InvitationView } from '@axion/contract'
import { computed, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import { call } from '../shell/api.ts'
import { useReading } from '../shell/reading.ts'
import { useAttempt } from '../shell/useAttempt.ts'
import AskedPanel from './AskedPanel.vue'
import RefusedNote from '../shell/RefusedNote.vue'

/** Where somebody without an account here completes a connection that they were invited to. */
const route = useRoute()
const path = `/api/invitations/${String(route.params['link'])}`
const { view: invited, refused: notRead } = useReading<InvitationView>(() => path)
const done = ref<{ system: string; company: string } | null>(null)
const address = ref('')
const token = ref('')
const { busy, refused: notConnected, attempt } = useAttempt()
const refused = computed(() => notConnected.value ?? notRead.value)
/** Who answers is shown first, and connected only then. */
const asked = ref<AskedView | null>(null)
watch([address, token], () => (asked.value = null))
const connect = (): Promise<void> =>
  attempt(async () => {
    if (asked.value === null) {
      asked.value = await call<AskedView>('POST', `${path}/asked`, {
        address: address.value,
        token: token.value,
      })
      return
    }
    done.value = await call('POST', path, { address: address.value, token: token.value })
    token.value = ''
  })
</script>

<template>
  <main class="alone-page">
    <form @submit.prevent="connect">
      <h1>Axion</h1>
      <p v-if="done" data-done>
        {{ done.system }} is connected. It is bound to <b>{{ done.company }}</b>; if that is not the company
        you meant, tell {{ invited?.by }}.
      </p>
      <template v-else-if="invited">
        <p>
          {{ invited.by }} of <b>{{ invited.entity }}</b> asks you to connect the {{ invited.role }} system
          “{{ invited.system }}”. What you enter goes to Axion’s server, sealed, and is shown to nobody.
        </p>
        <v-text-field v-model="address" label="Address of its bridge" type="url" required autofocus />
        <v-text-field v-model="token" label="Token" type="password" autocomplete="off" required />
        <AskedPanel v-if="asked" :asked="asked" />
        <button class="do first" type="submit" :disabled="busy">
          {{ busy ? 'Asking it' : asked === null ? 'Ask who answers' : `Connect ${asked.company.name}` }}
        </button>
      </template>
      <RefusedNote :refused="refused" />
    </form>
  </main>
</template>
