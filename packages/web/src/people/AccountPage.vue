<script setup lang="ts">
import type { SessionsView } from '@axion/contract'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { count } from '../figures/format.ts'
import PracticeBand from '../practice/PracticeBand.vue'
import { call } from '../shell/api.ts'
import { useReading } from '../shell/reading.ts'
import { useSession } from '../shell/session.ts'
import { useAttempt } from '../shell/useAttempt.ts'
import RefusedNote from '../shell/RefusedNote.vue'

/** One's own password, and where one is signed in. */
document.title = 'account · Axion'
const session = useSession()
const router = useRouter()
const temporary = computed(() => session.view?.person.mustChange === true)
const { view, refused: notRead, reload } = useReading<SessionsView>(() => '/api/session/all')
const sessions = computed(() => view.value?.sessions ?? null)
const { refused: notEnded, attempt } = useAttempt()
const refused = computed(() => notEnded.value ?? notRead.value)
const changing = useAttempt()
const password = ref('')
const next = ref('')
const changed = ref(false)

const change = (): Promise<void> =>
  changing.attempt(async () => {
    changed.value = false
    const wasTemporary = temporary.value
    await call('PUT', '/api/session/password', { password: password.value, next: next.value })
    password.value = next.value = ''
    changed.value = true
    await session.load()
    if (wasTemporary) await router.push({ name: 'home' })
    else await reload()
  })
const end = (id: string): Promise<void> =>
  attempt(async () => {
    await call('DELETE', `/api/session/all/${id}`)
    await reload()
  })

const instants = new Intl.DateTimeFormat(undefined, {
  day: 'numeric',
  month: 'short',
  hour: 'numeric',
  minute: '2-digit',
})
const instant = (iso: string): string => instants.format(new Date(iso))
const others = computed(() => (sessions.value ?? []).filter(({ own }) => !own).length)
</script>

<template>
  <div>
    <PracticeBand />
    <main class="page">
      <div class="head">
        <div>
          <p class="question">Where are you signed in?</p>
          <p v-if="temporary" class="verdict" data-verdict>
            <strong>Choose a password.</strong> The one you came with was set by somebody else
          </p>
          <p v-else-if="sessions" class="verdict" data-verdict>
            <strong>{{
              others === 0 ? 'Here alone.' : `Here, and ${count(others, 'time')} elsewhere.`
            }}</strong>
            A changed password ends every session but this one
          </p>
          <p v-else class="verdict"><strong>Reading</strong></p>
        </div>
      </div>
      <RefusedNote :refused="refused" />
      <div class="columns">
        <div class="scroll" tabindex="0" role="region" aria-label="Sessions">
          <table class="sheet" aria-label="Sessions">
            <thead>
              <tr>
                <th scope="col">Since</th>
                <th scope="col">From</th>
                <th scope="col">Browser</th>
                <th scope="col"><span class="visually-hidden">End it</span></th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="one in sessions ?? []" :key="one.id" :data-session="one.own ? 'own' : 'other'">
                <td>{{ instant(one.began) }}</td>
                <td class="soft">{{ one.from ?? 'not known' }}</td>
                <td class="agent soft" :title="one.agent">{{ one.agent || 'not said' }}</td>
                <td class="act">
                  <span v-if="one.own" class="soft">this one</span>
                  <button v-else type="button" class="plain" @click="end(one.id)">End it</button>
                </td>
              </tr>
            </tbody>
          </table>
        </div>
        <form class="asks" @submit.prevent="change">
          <h2>Change your password</h2>
          <input
            class="visually-hidden"
            type="text"
            autocomplete="username"
            :value="session.view?.person.email"
            tabindex="-1"
            aria-hidden="true"
            readonly
          />
          <label
            >{{ temporary ? 'The one you were given' : 'As it is' }}
            <input v-model="password" type="password" required autocomplete="current-password"
          /></label>
          <label
            >New <input v-model="next" type="password" required minlength="10" autocomplete="new-password"
          /></label>
          <p class="soft">Ten characters at least, and none of the commonest.</p>
          <RefusedNote :refused="changing.refused.value" />
          <p v-if="changed && !changing.refused.value" class="note" role="status">Changed.</p>
          <button class="do first" type="submit" :disabled="changing.busy.value">Change password</button>
        </form>
      </div>
    </main>
  </div>
</template>

<style scoped src="./people.css"></style>
<style scoped>
.agent {
  max-width: 0;
  width: 55%;
}
</style>
