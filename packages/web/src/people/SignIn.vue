<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useSession } from '../shell/session.ts'
import { useAttempt } from '../shell/useAttempt.ts'
import RefusedNote from '../shell/RefusedNote.vue'

const session = useSession()
const router = useRouter()
const route = useRoute()
const email = ref('')
const password = ref('')
const { busy, refused, attempt } = useAttempt()
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
  <main class="sign-in">
    <form @submit.prevent="signIn">
      <h1>Axion</h1>
      <p class="soft">Where every document’s tax is proved to sit.</p>
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
.sign-in {
  min-height: 100vh;
  display: grid;
  place-items: center;
}
form {
  width: 360px;
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
