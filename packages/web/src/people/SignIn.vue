<script setup lang="ts">
import type { FirstView } from '@axion/contract'
import { onMounted, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useReading } from '../shell/reading.ts'
import { useSession } from '../shell/session.ts'
import { useAttempt } from '../shell/useAttempt.ts'
import RefusedNote from '../shell/RefusedNote.vue'

const session = useSession()
const router = useRouter()
const route = useRoute()
const email = ref('')
const password = ref('')
const { busy, refused, attempt } = useAttempt()
/** Where nobody runs the installation yet, there is nobody to sign in as. */
const { view: who } = useReading<FirstView>(() => '/api/first')
const first = ref<{ focus(): void } | null>(null)
// At once, not when the field is seen: a late focus would take the keyboard from somebody who already types the password.
onMounted(() => first.value?.focus())

const signIn = (): Promise<void> =>
  attempt(async () => {
    await session.signIn(email.value, password.value)
    const next = String(route.query['next'] ?? '/')
    await router.push(next.startsWith('/') && !next.startsWith('//') ? next : '/')
  })
</script>

<template>
  <main class="alone-page">
    <form @submit.prevent="signIn">
      <h1>Axion</h1>
      <p class="soft">Where every document’s tax is proved to sit.</p>
      <p v-if="who?.nobody" class="note" data-nobody>
        Nobody runs this installation yet. Its start printed a link on the terminal; whoever follows it
        becomes its first administrator.
      </p>
      <v-text-field
        ref="first"
        v-model="email"
        label="E-mail address"
        type="email"
        autocomplete="username"
        required
      />
      <v-text-field
        v-model="password"
        label="Password"
        type="password"
        autocomplete="current-password"
        required
      />
      <RefusedNote :refused="refused" />
      <button class="do first" type="submit" :disabled="busy">Sign in</button>
    </form>
  </main>
</template>

<style scoped>
form {
  width: 360px;
}
</style>
