<script setup lang="ts">
import { fieldWords, type ImportView } from '@axion/contract'
import { computed, reactive, ref, watch } from 'vue'
import { count, useFormat } from '../figures/format.ts'
import { asRefused, call, type Refused } from '../shell/api.ts'
import { useMonth } from '../shell/month.ts'
import { isUnderWay, useRuns } from '../shell/runs.ts'
import { useView } from '../shell/useView.ts'
import ColumnMapper from './ColumnMapper.vue'
import { STATE_WORDS } from './words.ts'
import RefusedNote from '../shell/RefusedNote.vue'

/** A file on its way in: which column holds what, what its rows come to, and what taking them would change. Nothing is taken before somebody says so. */
const props = defineProps<{ id: string }>()
const emit = defineEmits<{ close: [] }>()
const { view, refused } = useView<ImportView>(() => `/files/imports/${props.id}`)
const { api, changed, month } = useMonth()
const format = useFormat()
const runs = useRuns()
const mappings = reactive<Record<string, Record<string, number | null>>>({})
const mode = ref<'whole' | 'part'>('part')
const goodOnly = ref(false)
const failed = ref<Refused | null>(null)
const busy = computed(() => isUnderWay(runs.current.value))

watch(view, (now) => {
  for (const sheet of now?.sheets ?? []) mappings[sheet.name] ??= { ...sheet.mapping }
})
const changes = computed(() => view.value?.changes[mode.value] ?? null)
const lacking = computed(() =>
  (view.value?.sheets ?? []).flatMap((sheet) =>
    sheet.columns.filter((c) => c.needed && mappings[sheet.name]?.[c.path] == null).map((c) => c.title),
  ),
)
const check = (): void => void runs.start(`/files/imports/${props.id}/read`, { mappings })
/** What would rewrite the past: from which day it is so instead, or that it always was. */
const fromDay = ref<string | null>(null)
const always = ref(false)
const day = computed(() => fromDay.value ?? `${month.value}-01`)
const take = (): void =>
  void runs.start(`/files/imports/${props.id}/apply`, {
    mode: mode.value,
    goodOnly: goodOnly.value,
    ...((changes.value?.earlier ?? 0) > 0 ? { changesFrom: always.value ? null : day.value } : {}),
  })
async function discard(): Promise<void> {
  try {
    await call('DELETE', `${api.value}/files/imports/${props.id}`)
    await changed()
    emit('close')
  } catch (error) {
    failed.value = asRefused(error)
  }
}
</script>

<template>
  <section v-if="view" class="import" :data-import="view.state">
    <header>
      <h2>
        {{ view.fileName }}
        <small
          >{{ STATE_WORDS[view.state]
          }}<template v-if="view.total > 0">, {{ count(view.total, 'row') }}</template></small
        >
      </h2>
      <button type="button" class="plain" @click="emit('close')">Close</button>
    </header>
    <RefusedNote :refused="refused ?? failed" />

    <template v-if="view.state === 'mapping' || view.state === 'read'">
      <ColumnMapper
        v-for="sheet in view.sheets"
        :key="sheet.name"
        :sheet="sheet"
        :mapping="mappings[sheet.name] ??= {}"
        :asks="view.state === 'mapping'"
        :open="view.state === 'mapping' && view.sheets.length === 1"
        @map="(path, column) => ((mappings[sheet.name] ??= {})[path] = column)"
      />
    </template>

    <div v-if="view.state === 'read'" class="outcome">
      <p v-if="view.bad > 0" class="note bad">
        <b>{{ count(view.bad, 'row') }} cannot be taken.</b>{{ ' ' }}
        <label
          ><input v-model="goodOnly" type="checkbox" /> take the {{ view.total - view.bad }} good ones, and
          leave these out</label
        >
      </p>
      <table v-if="view.bad > 0" class="sheet bad-rows" aria-label="Bad rows">
        <thead>
          <tr>
            <th scope="col" class="n">Line</th>
            <th scope="col">Reason</th>
            <th scope="col">The row</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="row in view.badRows" :key="row.sheet + row.line">
            <td class="n">{{ row.line }}</td>
            <td class="strong">{{ row.problem }}</td>
            <td class="soft values">{{ row.cells.join(' · ') }}</td>
          </tr>
        </tbody>
      </table>
      <fieldset>
        <legend>What the file holds</legend>
        <label
          ><input v-model="mode" type="radio" value="part" /> some of them: what it does not name stays</label
        >
        <label
          ><input v-model="mode" type="radio" value="whole" /> all of them: what it does not name is taken
          away</label
        >
      </fieldset>
      <template v-if="changes">
        <p class="sums" data-changes>
          <b>{{ changes.added }}</b> new, <b>{{ changes.changed }}</b> changed,
          <b>{{ changes.removed }}</b> taken away, {{ changes.same }} as they are
        </p>
        <fieldset v-if="changes.earlier > 0" class="when" data-from-when>
          <legend>
            {{ count(changes.earlier, 'row') }} would be otherwise, or gone, for months before
            {{ format.month(month) }} too, proved ones included. From when is it so?
          </legend>
          <label
            ><input v-model="always" type="radio" :value="false" /> from
            <input
              type="date"
              :value="day"
              aria-label="From this day on"
              :disabled="always"
              @change="fromDay = ($event.target as HTMLInputElement).value || null"
          /></label>
          <label><input v-model="always" type="radio" :value="true" /> always</label>
        </fieldset>
        <table v-if="changes.samples.length > 0" class="sheet" aria-label="What would change">
          <tbody>
            <tr v-for="(each, at) in changes.samples" :key="at">
              <td class="soft kind">
                {{ each.kind === 'added' ? 'new' : each.kind === 'removed' ? 'taken away' : 'changed' }}
              </td>
              <td class="strong">{{ each.label }}</td>
              <td>
                <span v-for="field in each.fields" :key="field.field" class="field"
                  >{{ fieldWords(field.field) }}: {{ field.from || 'empty' }} →
                  <b>{{ field.to || 'empty' }}</b></span
                >
              </td>
            </tr>
          </tbody>
        </table>
      </template>
    </div>

    <div class="actions">
      <button
        v-if="view.state === 'mapping' || view.state === 'read'"
        type="button"
        class="do"
        :class="{ first: view.state === 'mapping' }"
        :disabled="busy || lacking.length > 0"
        data-check
        @click="check"
      >
        {{ view.state === 'mapping' ? `Check ${count(view.total, 'row')}` : 'Check again' }}
      </button>
      <button
        v-if="view.state === 'read' && changes"
        type="button"
        class="do first"
        :disabled="busy || (view.bad > 0 && !goodOnly)"
        data-take
        @click="take"
      >
        {{
          changes.added + changes.changed + changes.removed === 0
            ? 'Nothing would change'
            : `Take ${count(changes.added + changes.changed + changes.removed, 'change')}`
        }}
      </button>
      <button
        v-if="view.state === 'mapping' || view.state === 'read'"
        type="button"
        class="plain"
        :disabled="busy"
        @click="discard"
      >
        Discard the file
      </button>
      <span v-if="lacking.length > 0 && view.state === 'mapping'" class="soft"
        >{{ lacking.join(', ') }} {{ lacking.length === 1 ? 'has' : 'have' }} no column yet</span
      >
    </div>
  </section>
</template>

<style scoped>
.import {
  background: var(--sheet);
  border: 1px solid var(--rule);
  border-top: 3px solid var(--plum);
  padding: 12px 18px 14px;
  margin-bottom: 18px;
}
header {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
}
h2 {
  font-size: 18px;
  font-weight: 700;
}
h2 small {
  font-weight: 400;
  font-size: 14px;
  color: var(--soft);
  margin-left: 8px;
}
.values {
  max-width: 420px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.bad-rows {
  max-width: 900px;
  margin-bottom: 8px;
}
.outcome {
  margin-top: 10px;
  max-height: 46vh;
  overflow-y: auto;
}
fieldset {
  border: 0;
  padding: 0;
  display: flex;
  gap: 22px;
  font-size: 14.5px;
  flex-wrap: wrap;
}
legend {
  float: left;
  margin-right: 14px;
  color: var(--soft);
}
.sums {
  margin: 8px 0;
}
.when {
  margin-bottom: 8px;
}
.kind {
  width: 96px;
}
.field {
  display: block;
}
.outcome .sheet td {
  white-space: normal;
  height: auto;
  vertical-align: top;
}
.actions {
  display: flex;
  gap: 12px;
  margin-top: 12px;
  align-items: center;
}
</style>
