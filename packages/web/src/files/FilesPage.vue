<script setup lang="ts">
import type { FilesView } from '@axion/contract'
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { count, useFormat } from '../figures/format.ts'
import { asRefused, sendFile, type Refused } from '../shell/api.ts'
import { useMonth } from '../shell/month.ts'
import { begun, isUnderWay, useRuns } from '../shell/runs.ts'
import { useView } from '../shell/useView.ts'
import ImportSteps from './ImportSteps.vue'
import { STATE_WORDS } from './words.ts'
import RefusedNote from '../shell/RefusedNote.vue'

/** Set-up out and in as spreadsheets: the whole baseline, what each system holds, and what systems without a bridge bring. */
const { view, refused } = useView<FilesView>(() => '/files')
const { api } = useMonth()
const route = useRoute()
const router = useRouter()
const runs = useRuns()
const format = useFormat()
const uploadRefused = ref<Refused | null>(null)
const chooser = ref<HTMLInputElement | null>(null)
const bound = ref<{ target: string; sheet: string | null } | null>(null)

const targets = computed(() => view.value?.targets ?? [])
const chosen = computed(() => targets.value.find((t) => t.id === route.query['target']) ?? targets.value[0])
const importId = computed(() => (typeof route.query['import'] === 'string' ? route.query['import'] : null))
const recent = computed(() => (view.value?.imports ?? []).filter((one) => one.target === chosen.value?.id))
const link = (sheet: string, as: 'csv' | 'xlsx'): string =>
  `${api.value}/files/${chosen.value?.id}/${sheet}?format=${as}`
function show(query: Readonly<Record<string, string | undefined>>): void {
  void router.replace({ query: { ...route.query, ...query } })
}
function choose(sheet: string | null): void {
  bound.value = { target: chosen.value?.id ?? '', sheet }
  chooser.value?.click()
}
async function bring(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement
  const [file] = input.files ?? []
  const to = bound.value
  if (!file || !to) return
  uploadRefused.value = null
  try {
    const query = new URLSearchParams({
      target: to.target,
      name: file.name,
      ...(to.sheet ? { sheet: to.sheet } : {}),
    })
    const { import: id, run } = await sendFile<{ import: string; run: string }>(
      `${api.value}/files/imports?${query.toString()}`,
      file,
    )
    runs.follow(begun(run, 'import'))
    show({ import: id })
  } catch (error) {
    uploadRefused.value = asRefused(error)
  } finally {
    input.value = ''
  }
}
</script>

<template>
  <main class="page">
    <div class="head">
      <div>
        <p class="question">What goes out as a spreadsheet, and what comes in as one?</p>
        <p class="verdict" data-verdict>
          <template v-if="!view || !chosen"><strong>Reading</strong></template>
          <template v-else
            ><strong>{{ chosen.name }}</strong> has {{ count(chosen.sheets.length, 'sheet') }},
            {{
              count(
                chosen.sheets.reduce((sum, s) => sum + s.rows, 0),
                'row',
              )
            }}{{
              chosen.takes
                ? '; what goes out comes in again'
                : '; it has a bridge, so nothing is brought in by hand'
            }}</template
          >
        </p>
      </div>
      <div class="head-actions">
        <a v-if="chosen" class="do" :href="link('all', 'xlsx')" download>All of it as a workbook</a>
        <button
          v-if="chosen?.id === 'baseline'"
          class="do first"
          type="button"
          :disabled="isUnderWay(runs.current.value)"
          @click="choose(null)"
        >
          Bring in a workbook
        </button>
      </div>
    </div>
    <nav class="tabs" aria-label="Whose set-up">
      <button
        v-for="each in targets"
        :key="each.id"
        type="button"
        class="plain"
        :class="{ chosen: each.id === chosen?.id }"
        :data-target="each.id"
        @click="show({ target: each.id, import: undefined })"
      >
        {{ each.name }}
      </button>
    </nav>
    <RefusedNote :refused="refused ?? uploadRefused" />
    <input
      ref="chooser"
      class="hidden"
      type="file"
      accept=".csv,.txt,.tsv,.xlsx"
      aria-label="File to bring in"
      @change="bring"
    />

    <ImportSteps v-if="importId" :id="importId" :key="importId" @close="show({ import: undefined })" />
    <div v-if="chosen" class="columns">
      <table class="sheet" aria-label="Sheets">
        <thead>
          <tr>
            <th scope="col">Sheet</th>
            <th scope="col" class="n">Rows</th>
            <th scope="col">Out</th>
            <th v-if="chosen.takes" scope="col">In</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="each in chosen.sheets" :key="each.key" :data-sheet="each.key">
            <td class="strong">{{ each.title }}</td>
            <td class="n">{{ each.rows === 0 ? '–' : each.rows.toLocaleString() }}</td>
            <td>
              <a :href="link(each.key, 'csv')" download>CSV</a>{{ ' ' }}
              <a :href="link(each.key, 'xlsx')" download>XLSX</a>
            </td>
            <td v-if="chosen.takes">
              <button
                type="button"
                class="plain"
                :disabled="isUnderWay(runs.current.value)"
                @click="choose(each.key)"
              >
                Bring a file in
              </button>
            </td>
          </tr>
        </tbody>
      </table>
      <section v-if="recent.length > 0" class="recent">
        <h2>Files that came in</h2>
        <p v-for="each in recent" :key="each.id">
          <button type="button" class="plain" @click="show({ import: each.id })">
            {{ each.fileName }}</button>{{ ' ' }}
          <span class="soft"
            >{{ STATE_WORDS[each.state] }}, {{ count(each.total, 'row')
            }}<template v-if="each.bad > 0">, {{ each.bad }} bad</template>; {{ each.person }},
            {{ format.instant(each.at) }}</span
          >
        </p>
      </section>
      <p v-else-if="chosen.takes" class="soft none">
        No file was brought in yet. CSV (comma, semicolon or tab; UTF-8 or UTF-16) and XLSX are read; the
        columns may stand in any order, under any title.
      </p>
    </div>
  </main>
</template>

<style scoped>
.tabs {
  display: flex;
  gap: 22px;
  flex-wrap: wrap;
  margin-bottom: 10px;
}
.tabs .plain {
  text-decoration: none;
  font-size: 15px;
  padding-bottom: 2px;
  border-bottom: 2px solid transparent;
}
.tabs .plain.chosen {
  border-bottom-color: var(--plum);
}
.hidden {
  position: absolute;
  width: 1px;
  height: 1px;
  opacity: 0;
  pointer-events: none;
}
.columns {
  display: grid;
  grid-template-columns: minmax(420px, 640px) minmax(260px, 1fr);
  gap: 28px;
  align-items: start;
}
.sheet a {
  margin-right: 12px;
}
.recent h2 {
  font-size: 15px;
  font-weight: 600;
  margin-bottom: 4px;
}
.recent p {
  font-size: 14px;
  padding: 2px 0;
}
.none {
  font-size: 14px;
  max-width: 46ch;
}
@media (max-width: 860px) {
  .columns {
    grid-template-columns: 1fr;
  }
}
</style>
