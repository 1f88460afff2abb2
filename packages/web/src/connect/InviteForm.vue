<script setup lang="ts">
import { SYSTEM_ROLES } from '@axion/contract'
import { ref } from 'vue'
import { call } from '../shell/api.ts'
import { useMonth } from '../shell/month.ts'
import { slugOf } from '../shell/slug.ts'
import { useAttempt } from '../shell/useAttempt.ts'
import { ROLE_WORDS } from './words.ts'
import RefusedNote from '../shell/RefusedNote.vue'

/** Inviting whoever has the rights on the other side: the link is shown once, to be sent to them. */
const { entity } = useMonth()
const shown = ref(false)
const role = ref('')
const name = ref('')
const link = ref<string | null>(null)
const { refused, attempt } = useAttempt()

const invite = (): Promise<void> =>
  attempt(async () => {
    const answer = await call<{ link: string }>('POST', `/api/entities/${entity.value.id}/invitations`, {
      systemId: slugOf(name.value),
      role: role.value,
      name: name.value.trim(),
    })
    link.value = window.location.origin + answer.link
  })
</script>

<template>
  <div class="invite">
    <button v-if="!shown" class="do" type="button" @click="shown = true">
      Invite somebody to connect a system
    </button>
    <form v-else @submit.prevent="invite">
      <label
        >What it is
        <select v-model="role" required aria-label="What kind of system">
          <option value="" disabled>choose</option>
          <option v-for="each in SYSTEM_ROLES" :key="each" :value="each">{{ ROLE_WORDS[each] }}</option>
        </select></label
      >
      <label>What it is called here <input v-model="name" required maxlength="100" /></label>
      <button class="do first" type="submit">Make the link</button>{{ ' ' }}
      <button class="plain" type="button" @click="shown = false">Not now</button>
      <p v-if="link" class="link" data-link>
        Send this to whoever can connect it. It works once, for a week, and is shown only now:
        <code>{{ link }}</code>
      </p>
      <RefusedNote :refused="refused" />
    </form>
  </div>
</template>

<style scoped>
.invite {
  min-width: 0;
}
form {
  display: flex;
  gap: 14px;
  align-items: center;
  flex-wrap: wrap;
  font-size: 14px;
}
input,
select {
  font: inherit;
  font-size: 14px;
  border: 1px solid var(--hair);
  background: var(--sheet);
  color: var(--ink);
  padding: 1px 8px;
  min-height: 28px;
  margin-left: 6px;
}
.link {
  flex-basis: 100%;
}
code {
  user-select: all;
  overflow-wrap: anywhere;
}
</style>
