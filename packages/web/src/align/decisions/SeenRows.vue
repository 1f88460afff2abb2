<script setup lang="ts">
import type { SeenView } from '@axion/contract'
import { computed, reactive, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import Amount from '../../figures/Amount.vue'
import { count, useFormat } from '../../figures/format.ts'
import StateMark from '../../figures/StateMark.vue'
import { call } from '../../shell/api.ts'
import { useMonth } from '../../shell/month.ts'
import RefusedNote from '../../shell/RefusedNote.vue'
import { useAttempt } from '../../shell/useAttempt.ts'
import { useView } from '../../shell/useView.ts'
import AttachedFiles from '../AttachedFiles.vue'
import { registrationRow, standingWord, stateOf, type Row } from './answers.ts'
import DayHead from './DayHead.vue'
import NumberAndDay from './NumberAndDay.vue'

/** What was accepted out of systems, by whose own text would say it: read there, or still on the word of systems. */
const props = defineProps<{ may: boolean }>()
const { api, changed } = useMonth()
const format = useFormat()
const { view, refused } = useView<SeenView>(() => '/decisions/seen')
const { busy, refused: failed, attempt } = useAttempt()
const shown = ref<string | null>(null)
const route = useRoute()
const section = ref<HTMLElement | null>(null)
// Whoever comes for this finds it, whatever stands above.
watch(section, (there) => route.hash === '#seen' && there?.scrollIntoView())
/** What is typed stays while others are kept. */
const typed = new Map<string, Row>()
const groups = computed(() =>
  (view.value?.groups ?? []).map((group) => {
    const row = typed.get(group.id) ?? reactive(registrationRow())
    typed.set(group.id, row)
    return { ...group, row, state: stateOf(group.things) }
  }),
)
const checks = computed(() =>
  groups.value
    .filter(({ state, row }) => state !== 'checked' && row.number.trim() !== '' && row.from !== '')
    .map(({ id, revision, row }) => ({ id, revision, against: row.number.trim(), on: row.from })),
)
const readers = (things: SeenView['groups'][number]['things']): string =>
  [
    ...new Set(
      things.flatMap(({ checked }) =>
        checked ? [`${checked.person} in “${checked.against}”, ${format.value.longDay(checked.on)}`] : [],
      ),
    ),
  ].join('; ')
const fileTo =
  (group: string) =>
  (name: string): string =>
    `/decisions/seen/files?${new URLSearchParams({ group, name }).toString()}`
const keep = (): Promise<void> =>
  attempt(async () => {
    await call('POST', `${api.value}/decisions/seen`, { checks: checks.value })
    await changed()
  })
const open = computed(() => (props.may ? groups.value.filter(({ state }) => state !== 'checked') : []))
</script>

<template>
  <section v-if="groups.length > 0" id="seen" ref="section" aria-label="Seen in systems">
    <h2>
      Seen in systems
      <small>systems that share a mistake agree: each agency’s own text is what checks them</small>
    </h2>
    <RefusedNote :refused="failed ?? refused" />
    <form aria-label="Checks" @submit.prevent="keep">
      <div class="scroll" tabindex="0" role="region" aria-label="Seen in systems">
        <table class="sheet" aria-label="Seen in systems">
          <thead>
            <tr>
              <th scope="col">By the text of</th>
              <th scope="col">What is held</th>
              <th scope="col" class="n">Expected, {{ view?.currency }}</th>
              <th scope="col">Stands on</th>
              <th scope="col">Read in</th>
              <DayHead :rows="open.map(({ row }) => row)">On</DayHead>
            </tr>
          </thead>
          <tbody>
            <template v-for="{ id, name, tax, things, files, row, state } in groups" :key="id">
              <tr :data-seen="id" :data-state="state">
                <td class="strong" :title="name">{{ name }}</td>
                <td>
                  <button
                    class="plain"
                    type="button"
                    :aria-expanded="shown === id"
                    @click="shown = shown === id ? null : id"
                  >
                    {{ count(things.length, 'rate or rule', 'rates and rules') }}
                  </button>
                </td>
                <td class="n"><Amount :value="tax" /></td>
                <td>
                  <StateMark
                    :state="state === 'checked' ? 'holds' : state === 'changed' ? 'breaks' : 'open'"
                    :word="standingWord(state)"
                  />
                </td>
                <td v-if="state === 'checked' || !may" colspan="2" class="wide">
                  {{ readers(things) }}
                  <AttachedFiles
                    :files="files"
                    :of="`what was read of ${name}`"
                    :to="may ? fileTo(id) : null"
                  />
                </td>
                <NumberAndDay
                  v-else
                  v-model:number="row.number"
                  v-model:from="row.from"
                  :rows="open.map((one) => one.row)"
                  :at="open.findIndex((one) => one.id === id)"
                  :shortest="3"
                  :longest="400"
                  :labels="{ number: `What was read of ${name}`, day: `Day on which ${name} was read` }"
                />
              </tr>
              <tr v-if="shown === id">
                <td colspan="6" class="form">
                  <ul>
                    <li v-for="thing in things" :key="thing.says">
                      {{ thing.says }}
                      <span class="soft"
                        >{{ standingWord(thing.standing) }};
                        {{
                          thing.seenIn.length > 0
                            ? `seen in ${thing.seenIn.join(', ')}`
                            : 'drawn from documents'
                        }}</span
                      >
                    </li>
                  </ul>
                  <p v-if="state !== 'checked' && may">
                    The text itself:
                    <AttachedFiles :files="files" :of="`what is read of ${name}`" :to="fileTo(id)" />
                  </p>
                </td>
              </tr>
            </template>
          </tbody>
        </table>
      </div>
      <p v-if="open.length > 0" class="actions">
        <button class="do" type="submit" data-keep-checks :disabled="busy || checks.length === 0">
          Keep {{ checks.length === 0 ? 'what is checked' : count(checks.length, 'check') }}
        </button>
        <span class="soft">Each keeps who read it, and holds until one of its values changes.</span>
      </p>
    </form>
  </section>
</template>

<style scoped src="./answers.css"></style>
<style scoped>
td p {
  margin: 0;
  padding: 0 8px 8px;
}
td ul {
  margin: 0;
  padding: 6px 8px;
  list-style: none;
  display: grid;
  gap: 3px;
  white-space: normal;
}
</style>
