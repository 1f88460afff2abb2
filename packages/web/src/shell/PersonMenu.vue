<script setup lang="ts">
import { useRoute, useRouter } from 'vue-router'
import { useSession } from './session.ts'

/** Behind the person's name: the practice, people, the audit trail, and how the pages look. */
defineProps<{ role?: string }>()
defineEmits<{ help: [] }>()
const session = useSession()
const router = useRouter()
const route = useRoute()

async function signOut(): Promise<void> {
  await session.signOut()
  await router.push({ name: 'sign-in' })
}
</script>

<template>
  <v-menu location="bottom end">
    <template #activator="{ props: menu }">
      <button v-bind="menu" type="button">
        {{ session.view?.person.name }}<template v-if="role"> · {{ role }}</template>
      </button>
    </template>
    <div class="menu">
      <RouterLink :to="{ name: 'practice' }">Practice</RouterLink>
      <template v-if="session.view?.person.runsPractice">
        <RouterLink :to="{ name: 'found' }">Found a legal entity</RouterLink>
        <RouterLink :to="{ name: 'practice-trail' }">Practice’s trail</RouterLink>
      </template>
      <template v-if="role">
        <RouterLink
          :to="{
            name: 'spreadsheets',
            params: { entity: route.params['entity'], month: route.params['month'] },
          }"
          >Spreadsheets</RouterLink
        >
        <RouterLink
          :to="{ name: 'entity', params: { entity: route.params['entity'], month: route.params['month'] } }"
          >Legal entity</RouterLink
        >
        <RouterLink
          :to="{ name: 'people', params: { entity: route.params['entity'], month: route.params['month'] } }"
          >People</RouterLink
        >
        <RouterLink
          :to="{ name: 'trail', params: { entity: route.params['entity'], month: route.params['month'] } }"
          >Audit trail</RouterLink
        >
      </template>
      <RouterLink :to="{ name: 'account' }">Your account</RouterLink>
      <button type="button" @click="session.turn()">
        {{ session.theme === 'dark' ? 'Light page' : 'Dark page' }}
      </button>
      <button v-if="role" type="button" @click="$emit('help')">Keys</button>
      <a href="/api/docs" target="_blank">API</a>
      <button type="button" @click="signOut">Sign out</button>
    </div>
  </v-menu>
</template>

<style scoped>
.menu {
  background: var(--sheet);
  border: 1px solid var(--rule);
  border-top: 3px solid var(--plum);
  display: grid;
  min-width: 150px;
  color: var(--ink);
}
.menu > * {
  text-align: left;
  background: none;
  border: 0;
  padding: 7px 14px;
  cursor: pointer;
  text-decoration: none;
  font-size: 14px;
}
.menu > *:hover {
  background: var(--plum-wash);
}
</style>
