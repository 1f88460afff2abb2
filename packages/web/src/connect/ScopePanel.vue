<script setup lang="ts">
import {
  SCOPE_PARTS,
  type Scope,
  type ScopeAmount,
  type ScopePart,
  type ScopePreview,
  type ScopeView,
} from '@axion/contract'
import { computed, ref } from 'vue'
import { count, useFormat } from '../figures/format.ts'
import { call } from '../shell/api.ts'
import { useMonth } from '../shell/month.ts'
import { readOnce } from '../shell/reading.ts'
import { useAttempt } from '../shell/useAttempt.ts'
import LeftOutRows from './LeftOutRows.vue'
import ScopeParts, { type PartRow } from './ScopeParts.vue'
import { saySchedule } from './words.ts'
import RefusedNote from '../shell/RefusedNote.vue'

/** What of a system is taken, which way, from when and how often, with the amounts of what is left out. */
const props = defineProps<{
  system: string
  name: string
  role: string
  leftOut: ScopeAmount
  schedule: Scope['schedule']
}>()
const { api, changed, entity } = useMonth()
const format = useFormat()
const view = ref<ScopeView | null>(null)
const draft = ref<Scope | null>(null)
const preview = ref<ScopePreview | null>(null)
const { busy, refused, attempt } = useAttempt()
const times = ref('')
const may = computed(() => entity.value.role === 'administrator')
const moved = computed(
  () => view.value !== null && JSON.stringify(wanted()) !== JSON.stringify(view.value.scope),
)
const address = computed(() => `${api.value}/systems/${props.system}/scope`)
const EMPTY: Readonly<Record<ScopePart, string>> = {
  channels: 'no channel stated',
  places: 'no outlet stated',
  kinds: '',
  statuses: '',
}
const parts = computed((): readonly PartRow[] =>
  SCOPE_PARTS.flatMap((part) =>
    (view.value?.parts[part] ?? []).map((one, at) => ({
      part,
      ...one,
      label: one.name.replaceAll('-', ' ') || EMPTY[part],
      first: at === 0,
    })),
  ),
)
const say = ({ documents, tax, total }: ScopeAmount): string =>
  `${count(documents, props.role === 'bank' ? 'line' : 'document')}${total === null ? '' : ` over ${format.value.figure(total)}`}${tax === null ? '' : `, ${format.value.figure(tax)} of it tax`}`

async function read(): Promise<void> {
  view.value = await readOnce<ScopeView>(address.value)
  draft.value = JSON.parse(JSON.stringify(view.value.scope)) as Scope
  times.value =
    view.value.scope.schedule && 'at' in view.value.scope.schedule
      ? view.value.scope.schedule.at.join(', ')
      : ''
  preview.value = null
}
const open = (event: Event): void =>
  void ((event.target as HTMLDetailsElement).open && view.value === null && attempt(read))

function change(fields: Partial<Scope>): void {
  if (draft.value) draft.value = { ...draft.value, ...fields }
  preview.value = null
}
function flip(part: ScopePart, key: string): void {
  const before = (draft.value?.off[part] ?? []) as string[]
  if (draft.value)
    change({
      off: {
        ...draft.value.off,
        [part]: before.includes(key) ? before.filter((one) => one !== key) : [...before, key].sort(),
      },
    })
}
const how = computed(() =>
  draft.value?.schedule == null ? 'asked' : 'at' in draft.value.schedule ? 'at' : 'every',
)
function pulled(way: string): void {
  change({ schedule: way === 'asked' ? null : way === 'every' ? { everyMinutes: 60 } : { at: ['06:00'] } })
  if (way === 'at') times.value = '06:00'
}
/** The draft as it would be kept: times as they are typed. */
function wanted(): Scope | null {
  if (!draft.value) return null
  return how.value === 'at'
    ? { ...draft.value, schedule: { at: times.value.split(/[,\s]+/).filter(Boolean) } }
    : draft.value
}
const look = (): Promise<void> =>
  attempt(
    async () => void (preview.value = await call<ScopePreview>('POST', `${address.value}/preview`, wanted())),
  )
const keep = (): Promise<void> =>
  attempt(async () => {
    await call('PUT', address.value, { scope: wanted(), revision: preview.value?.revision })
    await read()
    await changed()
  })
</script>

<template>
  <details class="scope" :data-scope="system" @toggle="open">
    <summary>
      What of it is taken:
      <b v-if="leftOut.documents > 0" class="hole" data-left-out>{{ say(leftOut) }} left out of the month</b
      ><template v-else>all of the month</template>; pulled {{ saySchedule(schedule) }}
    </summary>
    <RefusedNote :refused="refused" />
    <p v-if="!view && !refused" class="soft">Asking what of {{ name }} is taken</p>
    <form v-if="view && draft" @submit.prevent="look">
      <fieldset :disabled="!may || busy">
        <p class="ways">
          <label v-if="view.comesIn"
            ><input type="checkbox" :checked="draft.comesIn" @change="change({ comesIn: !draft.comesIn })" />
            Its documents are taken</label
          >
          <label
            ><input
              type="checkbox"
              :checked="draft.goesOut"
              data-goes-out
              @change="change({ goesOut: !draft.goesOut })"
            />
            {{ role === 'ledger' ? 'Bookings and set-up are sent to it' : 'Set-up is sent to it' }}</label
          >
        </p>
        <p v-if="view.comesIn" class="ways">
          <label
            >Taken from
            <input
              type="date"
              :value="draft.from ?? ''"
              data-from
              @change="change({ from: ($event.target as HTMLInputElement).value || null })"
          /></label>
          <span class="soft">{{
            draft.from === null
              ? 'No day is set: all that it has is taken'
              : `What is dated before is left out: ${say(view.tooOld)} of the month`
          }}</span>
        </p>
        <ScopeParts
          v-if="parts.length > 0"
          :name="name"
          :parts="parts"
          :currency="view.currency"
          :off="draft.off"
          @flip="flip"
        />
        <p class="ways">
          <label
            >Pulled
            <select
              :value="how"
              aria-label="When it is pulled"
              data-how
              @change="pulled(($event.target as HTMLSelectElement).value)"
            >
              <option value="asked">when somebody asks</option>
              <option value="every">every so often</option>
              <option value="at">at set times</option>
            </select></label
          >
          <label v-if="draft.schedule && 'everyMinutes' in draft.schedule"
            >every
            <input
              type="number"
              min="5"
              max="1440"
              :value="draft.schedule.everyMinutes"
              @change="
                change({
                  schedule: { everyMinutes: Math.trunc(Number(($event.target as HTMLInputElement).value)) },
                })
              "
            />
            minutes</label
          >
          <label v-else-if="draft.schedule"
            >at <input v-model="times" placeholder="06:00, 18:00" @input="preview = null"
          /></label>
          <span v-if="view.nextPullAt" class="soft">next {{ format.instant(view.nextPullAt) }}</span>
          <span class="soft">A pull sends nothing.</span>
        </p>
        <p v-if="preview" class="note" data-preview>
          <template v-if="preview.leaves.documents + preview.comes.documents === 0"
            >No document moves.</template
          >
          <template v-if="preview.leaves.documents > 0"
            >Over all months {{ say(preview.leaves) }} would be left out.
          </template>
          <template v-if="preview.comes.documents > 0"
            >Over all months {{ say(preview.comes) }} would come in.
          </template>
          <template v-if="preview.staysBooked.documents > 0"
            >{{ say(preview.staysBooked) }} stay booked, and follow their source: withdraw them in Post where
            they should not.</template
          >
        </p>
        <template v-if="may && moved">
          <button v-if="!preview" type="submit" class="do small">See what this does</button>
          <button v-else type="button" class="do first small" @click="keep">Keep this scope</button>
          <button type="button" class="plain" @click="attempt(read)">Take it back</button>
        </template>
      </fieldset>
      <p v-if="!may" class="soft">An administrator changes it.</p>
      <LeftOutRows v-if="view.left.length > 0" :name="name" :left="view.left" />
    </form>
  </details>
</template>

<style scoped>
.scope {
  margin-top: 8px;
  font-size: 14px;
}
summary {
  cursor: pointer;
  color: var(--soft);
}
.hole {
  color: var(--rust);
  font-weight: 600;
}
fieldset {
  border: 0;
  padding: 6px 0;
  display: grid;
  gap: 6px;
  justify-items: start;
}
.ways {
  display: flex;
  gap: 4px 16px;
  flex-wrap: wrap;
  align-items: center;
  margin: 0;
}
input:not([type='checkbox']),
select {
  font: inherit;
  font-size: 14px;
  border: 1px solid var(--hair);
  background: var(--sheet);
  color: var(--ink);
  padding: 1px 8px;
  min-height: 28px;
  margin: 0 4px;
}
input[type='number'] {
  width: 76px;
}
.small {
  min-height: 27px;
  padding: 0 10px;
}
</style>
