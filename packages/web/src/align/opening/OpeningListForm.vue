<script setup lang="ts">
import type { OpeningItem, OpeningListView, OpeningRead } from '@axion/contract'
import { computed, reactive, ref, watch } from 'vue'
import { count, isNil, useFormat } from '../../figures/format.ts'
import { call, sendFile } from '../../shell/api.ts'
import { useMonth } from '../../shell/month.ts'
import RefusedNote from '../../shell/RefusedNote.vue'
import { useAttempt } from '../../shell/useAttempt.ts'
import { useView } from '../../shell/useView.ts'
import { emptyLine, itemsOf, pasteInto, sumOf, typed, type TypedLine } from './draft.ts'
import { FROM, openOf } from './words.ts'

/** The list that makes up what an account stood at: proposed, typed, pasted or brought as a file, with what is still open in sight. */
const props = defineProps<{ account: string; may: boolean }>()
const emit = defineEmits<{ done: [] }>()
/** So many lines are typed in; a file may bring more. */
const MOST_SHOWN = 200
const { api, changed } = useMonth()
const format = useFormat()
const path = computed(() => `/opening/accounts/${encodeURIComponent(props.account)}`)
const { view, refused: notRead } = useView<OpeningListView>(() => path.value)
const { busy, refused, attempt } = useAttempt()
const lines = reactive<TypedLine[]>([])
const why = ref('')
const fill = (items: readonly OpeningItem[]): void =>
  void lines.splice(0, lines.length, ...items.map(typed), emptyLine())
/** What was read once is not overwritten while somebody types. */
const begun = ref(false)
watch(
  view,
  (now) => {
    if (!now || begun.value) return
    begun.value = true
    fill(now.items)
  },
  { immediate: true },
)
const currency = computed(() => view.value?.currency ?? '')
const sum = computed(() => sumOf(lines, currency.value))
const open = computed(() =>
  sum.value === null || view.value?.account.balance == null
    ? null
    : openOf({ balance: view.value.account.balance, list: sum.value }, currency.value),
)
const items = computed(() => itemsOf(lines))
const pasted = (at: number, field: keyof TypedLine, event: ClipboardEvent): void => {
  if (pasteInto(lines, { at, field }, event.clipboardData?.getData('text/plain') ?? ''))
    event.preventDefault()
}
/** There is always a line to type into. */
watch(
  () => lines.at(-1),
  (last) => {
    if (last && itemsOf([last]).length > 0) lines.push(emptyLine())
  },
  { deep: true },
)
const put = (below: string, body: object): Promise<void> =>
  attempt(async () => {
    await call('PUT', `${api.value}${path.value}${below}`, body)
    await changed()
    emit('done')
  })
const bring = (event: Event): Promise<void> =>
  attempt(async () => {
    const input = event.target as HTMLInputElement
    const [file] = input.files ?? []
    if (!file) return
    const address = `${api.value}${path.value}/read?name=${encodeURIComponent(file.name)}`
    fill((await sendFile<OpeningRead>(address, file)).items)
    input.value = ''
  })
const kept = computed(() => (view.value?.account.items ?? 0) > 0 || view.value?.account.aside !== null)
</script>

<template>
  <RefusedNote :refused="notRead" />
  <p v-if="!view && !notRead" class="soft">Asking what account {{ account }} is made up of</p>
  <form v-if="view" class="list" :data-opening-list="account" @submit.prevent="put('', { items })">
    <p v-if="view.proposed && may" class="proposed" data-proposed>
      {{ count(view.proposed.items.length, 'line') }} over {{ format.amount(view.proposed.sum) }}
      {{ currency }}: {{ FROM[view.proposed.from] }}.
      <button class="plain" type="button" @click="fill(view.proposed.items)">Take them as the list</button>
    </p>
    <p v-else-if="view.items.length === 0 && view.read !== null" class="soft">
      Nothing that was read comes to the balance exactly: entries from before
      {{ format.longDay(view.day) }} come to {{ format.amount(view.read) }} {{ currency }} on this account.
    </p>
    <RefusedNote :refused="refused" />
    <fieldset :disabled="!may || busy">
      <table :aria-label="`What account ${account} is made up of`">
        <thead>
          <tr>
            <th scope="col">Reference</th>
            <th scope="col">Who</th>
            <th scope="col">Date</th>
            <th scope="col" class="n">Amount, {{ currency }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(line, at) in lines.slice(0, MOST_SHOWN)" :key="at">
            <td>
              <input
                v-model="line.reference"
                maxlength="200"
                :required="line.amount !== ''"
                :aria-label="`Reference of line ${at + 1}`"
                @paste="pasted(at, 'reference', $event)"
              />
            </td>
            <td>
              <input
                v-model="line.party"
                maxlength="400"
                :aria-label="`Whose line ${at + 1} is`"
                @paste="pasted(at, 'party', $event)"
              />
            </td>
            <td>
              <input
                v-model="line.date"
                type="date"
                :aria-label="`Date of line ${at + 1}`"
                @paste="pasted(at, 'date', $event)"
              />
            </td>
            <td>
              <input
                v-model="line.amount"
                class="n"
                inputmode="decimal"
                pattern="\s*-?\d{1,15}(\.\d+)?\s*"
                title="An amount with a point, such as 1284.16"
                :required="line.reference.trim() !== ''"
                :aria-label="`Amount of line ${at + 1}`"
                @paste="pasted(at, 'amount', $event)"
              />
            </td>
          </tr>
        </tbody>
        <tfoot>
          <tr v-if="lines.length > MOST_SHOWN">
            <td colspan="4" class="soft">
              {{ count(lines.length - MOST_SHOWN, 'further line') }}, not shown and kept with these
            </td>
          </tr>
          <tr>
            <td colspan="3">{{ count(items.length, 'line') }}</td>
            <td class="n" data-list-sum>{{ sum === null ? 'not an amount yet' : format.amount(sum) }}</td>
          </tr>
          <tr v-if="open !== null">
            <td colspan="3">
              {{ isNil(open) ? 'It comes to what the ledger had' : 'Left of what the ledger had' }}
            </td>
            <td class="n" :class="{ breaks: !isNil(open) }" data-list-open>
              {{ isNil(open) ? '–' : format.amount(open) }}
            </td>
          </tr>
        </tfoot>
      </table>
      <p class="acts">
        <button class="do" type="submit" :disabled="items.length === 0" data-keep-list>
          Keep {{ count(items.length, 'line') }}
        </button>
        <label class="file"
          >or bring a file<input
            type="file"
            accept=".csv,.xlsx"
            :aria-label="`The list of account ${account} as a file`"
            @change="bring"
        /></label>
        <a v-if="view.items.length > 0" :href="`${api}${path}/list?format=xlsx`" download>Take it out</a>
        <button v-if="kept" class="plain" type="button" @click="put('', { items: [] })">
          Take back what is kept
        </button>
        <button class="plain" type="button" @click="emit('done')">Close</button>
      </p>
      <p v-if="may && !kept" class="acts">
        <label
          >It needs no list, because
          <input v-model="why" maxlength="400" :aria-label="`Why account ${account} needs no list`"
        /></label>
        <button
          class="plain"
          type="button"
          :disabled="why.trim() === ''"
          @click="put('/aside', { why: why.trim() })"
        >
          Leave it without one
        </button>
      </p>
      <p class="soft">
        Columns of a file, and of what is pasted: Reference, Party, Date, Amount. Amounts are positive on the
        account’s own side: owed on a liability, due on what is owned.
      </p>
    </fieldset>
  </form>
</template>

<style scoped>
.list {
  padding: 6px 2px 10px;
  font-size: 14.5px;
  max-width: 900px;
}
fieldset {
  border: 0;
  margin: 0;
  padding: 0;
  min-width: 0;
}
table {
  border-collapse: collapse;
  width: 100%;
}
.list :is(th, td) {
  position: static;
  height: auto;
  padding: 2px 6px 2px 0;
  border: 0;
  background: none;
  max-width: none;
}
.list input:not([type='file']) {
  font: inherit;
  font-size: 14px;
  border: 1px solid var(--hair);
  background: var(--sheet);
  color: var(--ink);
  padding: 1px 8px;
  width: 100%;
}
.list .n {
  text-align: right;
  font-variant-numeric: tabular-nums;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 16px;
  align-items: center;
  margin: 8px 0 0;
}
.acts input:not([type='file']) {
  width: 320px;
}
p {
  margin: 4px 0;
}
</style>
