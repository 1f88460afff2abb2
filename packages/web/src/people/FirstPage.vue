<script setup lang="ts">
import { ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { call } from '../shell/api.ts'
import { useReading } from '../shell/reading.ts'
import RefusedNote from '../shell/RefusedNote.vue'
import { useSession } from '../shell/session.ts'
import { useAttempt } from '../shell/useAttempt.ts'

/** An installation that nobody runs yet: whoever follows the link of its start becomes its first administrator, and goes on to found a legal entity. */
document.title = 'begin · Axion'
const route = useRoute()
const router = useRouter()
const session = useSession()
const path = `/api/first/${encodeURIComponent(String(route.params['link']))}`
const { view: waits, refused: notRead } = useReading<{ waits: true }>(() => path)
const { busy, refused: notBegun, attempt } = useAttempt()
const [name, email, password, again] = [ref(''), ref(''), ref(''), ref('')]
const differ = ref(false)
const begin = (): Promise<void> =>
  attempt(async () => {
    differ.value = password.value !== again.value
    if (differ.value) return
    await call('POST', path, { name: name.value.trim(), email: email.value.trim(), password: password.value })
    await session.load()
    await router.push({ name: 'found' })
  })
</script>

<template>
  <main class="alone-page">
    <form @submit.prevent="begin">
      <h1>Axion</h1>
      <template v-if="waits">
        <p>
          Nobody runs this installation yet. You become its first administrator: you found legal entities,
          connect their systems, and add people.
        </p>
        <v-text-field
          v-model="name"
          label="Your name"
          autocomplete="name"
          maxlength="200"
          required
          autofocus
        />
        <v-text-field
          v-model="email"
          label="E-mail address"
          type="email"
          autocomplete="username"
          maxlength="200"
          required
        />
        <v-text-field
          v-model="password"
          label="Password"
          type="password"
          autocomplete="new-password"
          minlength="10"
          required
        />
        <v-text-field
          v-model="again"
          label="The same once more"
          type="password"
          autocomplete="new-password"
          minlength="10"
          required
        />
        <p class="soft">Ten characters at least, and none of the commonest.</p>
        <p v-if="differ" class="note bad" role="alert">The two passwords differ. Type both again.</p>
        <button class="do first" type="submit" :disabled="busy">{{ busy ? 'Beginning' : 'Begin' }}</button>
      </template>
      <p v-else-if="!notRead" class="soft">Reading</p>
      <RefusedNote :refused="notBegun ?? notRead" />
      <p v-if="notRead"><RouterLink :to="{ name: 'sign-in' }">Sign in</RouterLink></p>
    </form>
  </main>
</template>
