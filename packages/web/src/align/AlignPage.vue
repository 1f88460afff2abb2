<script setup lang="ts">
import type { GridCell, GridRow, GridView, Remedy } from '@axion/contract'
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useEvidence } from '../evidence/useEvidence.ts'
import Amount from '../figures/Amount.vue'
import { count, isNil, useFormat } from '../figures/format.ts'
import StateMark from '../figures/StateMark.vue'
import { useRows } from '../grid/useRows.ts'
import { asRefused, call, type Refused } from '../shell/api.ts'
import { useKeys } from '../shell/keyboard.ts'
import { useMonth } from '../shell/month.ts'
import { useView } from '../shell/useView.ts'
import MendDialog from '../tieout/MendDialog.vue'
import type { Mending } from '../tieout/mendWords.ts'
import RowDetail from './RowDetail.vue'
import { EVIDENCE_WORDS } from './words.ts'

const route = useRoute()
const router = useRouter()
const kind = computed(() => route.params['kind'] as 'rates' | 'agencies')
const { view, refused } = useView<GridView>(() => `/align/${kind.value}`)
const { api, changed, path } = useMonth()
const evidence = useEvidence()
const format = useFormat()
const linkRefused = ref<Refused | null>(null)
const mending = ref<Mending | null>(null)
function mend(remedy: Remedy | undefined): void {
  if (remedy) mending.value = { remedies: [remedy], asks: false }
}
const only = computed(() => route.query['only'] === 'differs')
const linkKind = computed(() => (kind.value === 'rates' ? 'combined-rate' : 'agency'))

const rows = computed(() => (view.value?.rows ?? []).filter((row) => !only.value || row.cells.some((c) => !['agrees', 'not-needed'].includes(c.state))))
const { chosen, row, choose } = useRows(() => rows.value, (r) => r.id, (r) => {
  if (!isNil(r.stake)) evidence.show({ of: 'stake', finding: r.findings })
})
const STATE: Readonly<Record<GridCell['state'], 'holds' | 'breaks' | 'asks' | 'open'>> = { agrees: 'holds', differs: 'breaks', proposed: 'asks', question: 'asks', absent: 'breaks', 'not-needed': 'open', 'not-pulled': 'open' }

async function change(method: 'PUT' | 'DELETE' | 'POST', path: string, body: unknown): Promise<void> {
  linkRefused.value = null
  try {
    await call(method, api.value + path, body)
    await changed()
  } catch (error) {
    linkRefused.value = asRefused(error)
  }
}
const link = (systemId: string, objectId: string, baselineId: string): Promise<void> => change('PUT', '/links', { systemId, kind: linkKind.value, objectId, baselineId })
const unlink = (systemId: string, objectId: string): Promise<void> => change('DELETE', '/links', { systemId, kind: linkKind.value, objectId })
const acceptClear = (): Promise<void> => change('POST', '/links/clear', { kinds: [linkKind.value] })
async function acceptRow(target: GridRow | null): Promise<void> {
  for (const cell of target?.cells ?? []) for (const object of cell.objects.filter((o) => !o.linked)) await link(cell.systemId, object.id, target?.id ?? '')
}
useKeys(() => [
  { key: 'a', does: 'accept the row’s proposed links', act: () => void acceptRow(row.value) },
  { key: 'm', does: 'mend the row’s difference', act: () => mend(row.value?.cells.flatMap((c) => c.remedies)[0]) },
  { key: 'f', does: 'only what differs', act: () => void router.replace({ query: { ...route.query, only: only.value ? undefined : 'differs' } }) },
])
const groups = computed(() => [...new Set(rows.value.map((r) => r.group))])
const target = ref<Readonly<Record<string, string>>>({})
function setTarget(id: string, event: Event): void {
  target.value = { ...target.value, [id]: (event.target as HTMLSelectElement).value }
}
</script>

<template>
  <main class="page">
    <div class="head">
      <div>
        <p class="question">Do the systems agree with the baseline on {{ kind === 'rates' ? 'combined rates' : 'agencies' }}?</p>
        <p v-if="view" class="verdict" data-verdict>
          <template v-if="view.systems.every((s) => s.pulledAt === null)"><strong>Not known yet.</strong> Pull the systems in Connect</template>
          <template v-else-if="view.findings === 0"><strong>Yes.</strong> {{ count(view.rows.length, kind === 'rates' ? 'rate' : 'agency', kind === 'rates' ? 'rates' : 'agencies') }} in {{ count(view.systems.length, 'system') }} agree</template>
          <template v-else><strong>No: {{ count(view.findings, 'finding') }}</strong><template v-if="!isNil(view.stake)">{{ view.findings === 1 ? ' puts ' : ' put ' }}<Amount :value="view.stake" :of="{ of: 'stake', kind: linkKind }" breaks /> {{ view.currency }} of the month’s tax at stake</template></template>
        </p>
        <p v-else class="verdict"><strong>Reading</strong></p>
      </div>
      <div class="head-actions">
        <button v-if="view && view.clearLinks > 0" class="do first" type="button" @click="acceptClear">Accept {{ count(view.clearLinks, 'clear link') }}</button>
      </div>
    </div>
    <div class="tabs">
      <RouterLink class="plain" :class="{ chosen: kind === 'rates' }" :to="{ params: { ...route.params, kind: 'rates' } }">Combined rates</RouterLink>
      <RouterLink class="plain" :class="{ chosen: kind === 'agencies' }" :to="{ params: { ...route.params, kind: 'agencies' } }">Agencies</RouterLink>
      <span class="soft push"><template v-if="path">{{ count(path.align.findings, 'finding') }} in both · </template><button type="button" class="plain" @click="router.replace({ query: { ...route.query, only: only ? undefined : 'differs' } })">{{ only ? 'show all' : 'only what differs' }}</button></span>
    </div>
    <p v-if="refused ?? linkRefused" class="note bad" role="alert">{{ (refused ?? linkRefused)?.says }} {{ (refused ?? linkRefused)?.mend }}</p>

    <div v-if="view" class="wide">
      <table class="sheet grid">
        <thead>
          <tr>
            <th scope="col">Baseline</th><th scope="col">{{ kind === 'rates' ? 'Components, %' : 'Collects for' }}</th><th scope="col" :class="{ n: kind === 'rates' }">{{ kind === 'rates' ? 'Total' : 'Account' }}</th>
            <th v-for="system in view.systems" :key="system.id" scope="col" class="system">
              {{ system.name }}<small>{{ system.pulledAt ? `pulled ${format.instant(system.pulledAt)}` : 'not pulled' }}<template v-if="system.changes > 0">, {{ count(system.changes, 'change') }}</template></small>
            </th>
            <th scope="col" class="n">Touches</th><th scope="col" class="n">At stake, {{ view.currency }}</th>
          </tr>
        </thead>
        <tbody v-for="group in groups" :key="group">
          <tr class="group"><td :colspan="5 + view.systems.length">{{ group }}</td></tr>
          <template v-for="(r, at) in rows" :key="r.id">
            <tr v-if="r.group === group" :class="{ chosen: at === chosen }" :data-row="r.id" @click="choose(at)">
              <td class="strong" :title="r.name">{{ r.name }}</td><td class="soft" :title="r.detail">{{ r.detail }}</td><td :class="kind === 'rates' ? 'n strong' : 'soft'">{{ r.total }}</td>
              <td v-for="cell in r.cells" :key="cell.systemId" class="system" :data-cell="cell.systemId" :data-state="cell.state">
                <span class="cell"><StateMark :state="STATE[cell.state]" :word="cell.words" /><small v-if="cell.objects.some((o) => !o.linked)" class="tolink">not linked</small></span>
              </td>
              <td class="n soft">{{ r.documents === 0 ? '–' : count(r.documents, 'doc') }}</td>
              <td class="n"><Amount :value="r.stake" :of="{ of: 'stake', finding: r.findings }" breaks /></td>
            </tr>
          </template>
        </tbody>
        <tbody v-if="view.extras.length > 0">
          <tr class="group"><td :colspan="5 + view.systems.length">Held by a system, and linked to nothing</td></tr>
          <tr v-for="extra in view.extras" :key="extra.systemId + extra.id" :data-extra="extra.id">
            <td class="strong" :title="extra.name">{{ extra.name }}</td><td class="soft">in {{ extra.system }}</td><td class="n breaks" :title="extra.words">{{ extra.words }}</td>
            <td :colspan="view.systems.length" class="candidates">
              <select :value="target[extra.id] ?? extra.candidates[0]?.id ?? ''" :aria-label="`What ${extra.name} is`" @change="setTarget(extra.id, $event)">
                <option value="" disabled>choose what it is</option>
                <option v-for="r in view.rows" :key="r.id" :value="r.id">{{ r.name }}</option>
              </select>
              <button class="do small" type="button" :disabled="!(target[extra.id] ?? extra.candidates[0]?.id)" @click="link(extra.systemId, extra.id, target[extra.id] ?? extra.candidates[0]?.id ?? '')">Link</button>
              <span v-if="extra.candidates[0]" class="soft">{{ extra.candidates.length > 1 ? `${extra.candidates.length} candidates` : extra.candidates[0].evidence.map((e) => EVIDENCE_WORDS[e]).join(', ') }}</span>
            </td>
            <td class="n soft">{{ extra.documents === 0 ? '–' : count(extra.documents, 'doc') }}</td>
            <td class="n"><Amount :value="extra.stake" :of="{ of: 'stake', finding: extra.finding }" breaks /></td>
          </tr>
        </tbody>
      </table>
    </div>
    <RowDetail v-if="row && view" :row="row" :view="view" @link="link" @unlink="unlink" @mend="mend" />
    <MendDialog v-model="mending" />
  </main>
</template>

<style scoped>
.tabs { display: flex; gap: 20px; align-items: center; margin-bottom: 8px; }
.tabs .plain.chosen { border-bottom: 2px solid var(--plum); padding-bottom: 2px; }
.push { margin-left: auto; font-size: 14px; }
.system { border-left: 1px solid var(--rule); }
th small { display: block; font-weight: 400; font-size: 12px; }
.cell > :first-child { min-width: 0; }
.cell > :first-child :deep(span) { overflow: hidden; text-overflow: ellipsis; }
.cell { display: flex; justify-content: space-between; gap: 10px; align-items: baseline; }
.tolink { color: var(--plum); font-size: 12.5px; white-space: nowrap; }
.candidates { display: table-cell; max-width: none !important; }
select { font: inherit; font-size: 14px; background: var(--sheet); color: var(--ink); border: 1px solid var(--hair); height: 25px; max-width: 210px; }
.small { min-height: 25px; padding: 0 10px; margin: 0 8px; }
</style>
