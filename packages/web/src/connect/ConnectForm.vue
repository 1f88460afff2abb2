<script setup lang="ts">
import { SYSTEM_ROLES, type AskedView } from '@axion/contract'
import { computed, ref, watch } from 'vue'
import { call } from '../shell/api.ts'
import { useMonth } from '../shell/month.ts'
import RefusedNote from '../shell/RefusedNote.vue'
import { slugOf } from '../shell/slug.ts'
import { useAttempt } from '../shell/useAttempt.ts'
import AskedPanel from './AskedPanel.vue'
import { ROLE_WORDS } from './words.ts'

/** Connecting a system, or one anew at another address or with another token: who answers is shown first, and kept only then. */
const props = defineProps<{
  /** The one that is connected anew; without it, another is. */
  of?: {
    readonly id: string
    readonly role: string
    readonly name: string
    readonly address: string | null
    readonly byFiles?: boolean
  }
  /** Those that are connected: another is none of them. */
  taken?: readonly { readonly id: string; readonly name: string }[]
}>()
const emit = defineEmits<{ done: [] }>()
const { api, changed, entity } = useMonth()
const { busy, refused, attempt } = useAttempt()
const role = ref(props.of?.role ?? '')
const name = ref(props.of?.name ?? '')
const address = ref(props.of?.address ?? '')
const token = ref('')
const byFiles = ref(props.of?.byFiles ?? false)
const company = ref(entity.value.name)
const asked = ref<AskedView | null>(null)
// Whoever answered, answered there and to that token.
watch([role, name, address, token], () => (asked.value = null))
const id = computed(() => props.of?.id ?? (slugOf(name.value) || role.value))
const same = computed(() => (props.of ? undefined : props.taken?.find((one) => one.id === id.value)))
const connection = computed(() => ({
  role: role.value,
  name: name.value.trim(),
  address: address.value.trim(),
  token: token.value,
}))
const isOfFiles = computed(() => byFiles.value && role.value !== 'bank')

const submit = (): Promise<void> =>
  attempt(async () => {
    if (isOfFiles.value)
      await call('PUT', `/api/entities/${entity.value.id}/systems/${id.value}/files`, {
        role: role.value,
        name: name.value.trim(),
        company: company.value.trim(),
        baseCurrency: entity.value.currency,
        timeZone: entity.value.timeZone,
      })
    else if (asked.value === null) {
      asked.value = await call<AskedView>('POST', `${api.value}/systems/${id.value}/asked`, connection.value)
      return
    } else await call('PUT', `/api/entities/${entity.value.id}/systems/${id.value}`, connection.value)
    token.value = ''
    await changed()
    emit('done')
  })
</script>

<template>
  <form
    class="asks connecting"
    :aria-label="of ? `Connect ${of.name} anew` : 'Connect a system'"
    @submit.prevent="submit"
  >
    <h2>
      {{ of ? (byFiles ? `${of.name}, again` : `${of.name}: another address or token`) : 'Connect a system' }}
    </h2>
    <div class="fields">
      <label v-if="!of"
        ><span>What it is</span>
        <select v-model="role" name="role" required>
          <option value="" disabled>choose</option>
          <option v-for="each in SYSTEM_ROLES" :key="each" :value="each">{{ ROLE_WORDS[each] }}</option>
        </select></label
      >
      <label v-if="!of"
        ><span>Called here</span>
        <input v-model="name" name="name" required maxlength="100" autocomplete="off" />
      </label>
      <label v-if="!of && role !== 'bank'" class="check"
        ><input v-model="byFiles" type="checkbox" name="byFiles" /> It has no bridge: its set-up comes as
        spreadsheets</label
      >
      <template v-if="!isOfFiles">
        <label
          ><span>Address of its bridge</span>
          <input v-model="address" name="address" type="url" required maxlength="500" autocomplete="off" />
        </label>
        <label
          ><span>Token</span>
          <input
            v-model="token"
            name="token"
            type="password"
            required
            minlength="8"
            maxlength="500"
            autocomplete="off"
          />
          <small>Kept sealed, and shown to nobody.</small></label
        >
      </template>
      <label v-else
        ><span>Of the company</span>
        <input v-model="company" name="company" required maxlength="200" autocomplete="organization" />
        <small
          >Its amounts are taken to be in {{ entity.currency }}, its days those of
          {{ entity.timeZone.replaceAll('_', ' ') }}.</small
        ></label
      >
      <p v-if="same" class="note bad">
        {{ same.name }} is connected under that name. Call this one otherwise, or change the address of
        {{ same.name }} there.
      </p>
      <RefusedNote :refused="refused" />
      <p class="row">
        <button class="do first" type="submit" :disabled="busy || same !== undefined">
          <template v-if="isOfFiles">Take it on</template>
          <template v-else-if="asked === null">{{ busy ? 'Asking it' : 'Ask who answers' }}</template>
          <template v-else>{{ of ? 'Keep it so' : `Connect ${name.trim()}` }}</template>
        </button>
        <button class="do" type="button" @click="emit('done')">Not now</button>
      </p>
    </div>
    <AskedPanel v-if="asked" :asked="asked" />
    <p v-else-if="!of" class="soft says">
      A bridge is a small program beside the system that speaks
      <a href="/api/docs/bridge.json" target="_blank">Axion’s contract</a>. It is asked who it is and what it
      offers; nothing is kept before you have seen that, and nothing is read before you pull.
    </p>
  </form>
</template>

<style scoped>
.connecting {
  --called: 150px;
  margin: 14px 0;
  grid-template-columns: minmax(0, 460px) minmax(0, 1fr);
  gap: 8px 28px;
}
h2 {
  grid-column: 1 / -1;
}
.fields {
  display: grid;
  gap: 8px;
  align-content: start;
}
.row {
  display: flex;
  gap: 10px;
}
.says {
  max-width: 60ch;
}
@media (max-width: 900px) {
  .connecting {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
