<script setup lang="ts">
import type { InvitationView } from '@axion/contract'
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import { call } from '../shell/api.ts'
import { useReading } from '../shell/reading.ts'
import { useAttempt } from '../shell/useAttempt.ts'
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
const connect = (): Promise<void> =>
  attempt(async () => {
    done.value = await call('POST', path, { address: address.value, token: token.value })
    token.value = ''
  })
</script>

<template>
  <main class="invitation">
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
        <button class="do first" type="submit" :disabled="busy">
          {{ busy ? 'Asking it who it is' : 'Connect it' }}
        </button>
      </template>
      <RefusedNote :refused="refused" />
    </form>
  </main>
</template>

<style scoped>
.invitation {
  min-height: 100vh;
  display: grid;
  place-items: center;
}
form {
  width: 440px;
  display: grid;
  gap: 14px;
  background: var(--sheet);
  border: 1px solid var(--rule);
  border-top: 3px solid var(--plum);
  padding: 28px;
}
h1 {
  font-size: 30px;
  font-weight: 700;
  line-height: 1;
}
.do {
  justify-content: center;
}
</style>
