<script setup lang="ts">
import type { MembersView } from '@axion/contract'
import { computed, ref } from 'vue'
import { count } from '../figures/format.ts'
import { call } from '../shell/api.ts'
import { useMonth } from '../shell/month.ts'
import { useReading } from '../shell/reading.ts'
import { useSession } from '../shell/session.ts'
import { useAttempt } from '../shell/useAttempt.ts'
import RefusedNote from '../shell/RefusedNote.vue'

/** Who may do what in this legal entity. */
const { entity } = useMonth()
const session = useSession()
const adding = ref({ email: '', name: '', password: '', role: 'preparer' })
const api = computed(() => `/api/entities/${entity.value.id}/members`)
const administers = computed(() => entity.value.role === 'administrator')
const { view, refused: notRead, reload } = useReading<MembersView>(() => api.value)
const members = computed(() => view.value?.members ?? [])
const { refused: notDone, attempt } = useAttempt()
const refused = computed(() => notDone.value ?? notRead.value)

async function doing(work: () => Promise<unknown>): Promise<boolean> {
  await attempt(async () => {
    await work()
    await reload()
  })
  return notDone.value === null
}
const setRole = (email: string, role: string): void =>
  void doing(() => call('PUT', api.value, { email, role }))
const remove = (email: string): void =>
  void doing(() => call('DELETE', `${api.value}/${encodeURIComponent(email)}`))
async function add(): Promise<void> {
  const { email, name, password, role } = adding.value
  const added = await doing(async () => {
    if (name !== '' || password !== '') await call('POST', '/api/people', { email, name, password })
    await call('PUT', api.value, { email, role })
  })
  if (added) adding.value = { email: '', name: '', password: '', role: 'preparer' }
}

/** Only who runs the practice sets passwords: a person belongs to more than one legal entity. */
const mayReset = (email: string): boolean =>
  session.view?.person.runsPractice === true && email !== session.view.person.email
const resetting = ref<{ email: string; name: string; password: string } | null>(null)
/** What came of the last one that was set. */
const said = ref('')
function startReset(email: string, name: string): void {
  said.value = ''
  resetting.value = { email, name, password: '' }
}
async function reset(): Promise<void> {
  const of = resetting.value
  if (of === null) return
  const path = `/api/people/${encodeURIComponent(of.email)}/password`
  if (!(await doing(() => call('PUT', path, { password: of.password })))) return
  resetting.value = null
  said.value = `${of.name} signs in with it once, and chooses another.`
}

const ROLES = [
  ['viewer', 'reads'],
  ['preparer', 'pulls, aligns, posts, signs first'],
  ['reviewer', 'also signs second, never on own work'],
  ['administrator', 'manages people, systems and settings'],
] as const
</script>

<template>
  <main class="page">
    <div class="head">
      <div>
        <p class="question">Who may do what in {{ entity.name }}?</p>
        <p v-if="view" class="verdict" data-verdict>
          <strong>{{ count(members.length, 'person', 'people') }}.</strong>
          {{
            administers
              ? 'A role holds in this legal entity alone'
              : 'An administrator of this legal entity changes roles'
          }}
        </p>
        <p v-else class="verdict"><strong>Reading</strong></p>
      </div>
    </div>
    <RefusedNote :refused="refused" />
    <p v-if="said" class="note" role="status">{{ said }}</p>
    <div class="columns">
      <table class="sheet" aria-label="People">
        <thead>
          <tr>
            <th scope="col">Name</th>
            <th scope="col">E-mail address</th>
            <th scope="col">Role</th>
            <th v-if="administers" scope="col"><span class="visually-hidden">Remove</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="member in members" :key="member.email" :data-member="member.email">
            <td class="strong">{{ member.name }}</td>
            <td>
              {{ member.email
              }}<span v-if="member.email === session.view?.person.email" class="soft">, you</span>
            </td>
            <td>
              <select
                v-if="administers"
                :value="member.role"
                :aria-label="`Role of ${member.name}`"
                @change="setRole(member.email, ($event.target as HTMLSelectElement).value)"
              >
                <option v-for="[role] in ROLES" :key="role" :value="role">{{ role }}</option>
              </select>
              <template v-else>{{ member.role }}</template>
            </td>
            <td v-if="administers" class="act">
              <button
                v-if="mayReset(member.email)"
                type="button"
                class="plain"
                :aria-label="`Set a temporary password for ${member.name}`"
                @click="startReset(member.email, member.name)"
              >
                Password
              </button>
              <button
                type="button"
                class="plain"
                :aria-label="`Remove ${member.name} from ${entity.name}`"
                @click="remove(member.email)"
              >
                Remove
              </button>
            </td>
          </tr>
        </tbody>
      </table>
      <div>
        <dl class="roles">
          <template v-for="[role, does] in ROLES" :key="role"
            ><dt>{{ role }}</dt>
            <dd>{{ does }}</dd></template
          >
        </dl>
        <form v-if="resetting" class="asks" aria-label="Temporary password" @submit.prevent="reset">
          <h2>A password for {{ resetting.name }}</h2>
          <p class="soft">It ends all their sessions, and they choose another at once.</p>
          <label
            >Temporary
            <input
              v-model="resetting.password"
              type="password"
              required
              minlength="10"
              autocomplete="new-password"
          /></label>
          <div class="row">
            <button class="do first" type="submit">Set it</button>
            <button class="do" type="button" @click="resetting = null">Leave it</button>
          </div>
        </form>
        <form v-else-if="administers" class="asks" @submit.prevent="add">
          <h2>Add somebody</h2>
          <label
            >E-mail address <input v-model="adding.email" type="email" required autocomplete="off"
          /></label>
          <label
            >Role
            <select v-model="adding.role">
              <option v-for="[role] in ROLES" :key="role" :value="role">{{ role }}</option>
            </select></label
          >
          <p class="soft">
            Somebody new to the practice also needs a name, and a password to come with once:
          </p>
          <label>Name <input v-model="adding.name" autocomplete="off" /></label>
          <label
            >First password
            <input v-model="adding.password" type="password" minlength="10" autocomplete="new-password"
          /></label>
          <button class="do first" type="submit">Add to {{ entity.name }}</button>
        </form>
      </div>
    </div>
  </main>
</template>

<style scoped src="./people.css"></style>
