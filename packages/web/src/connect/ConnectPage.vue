<script setup lang="ts">
import type { ConnectView } from '@axion/contract'
import { computed, ref } from 'vue'
import { count, useFormat } from '../figures/format.ts'
import StateMark from '../figures/StateMark.vue'
import { asRefused, call, type Refused } from '../shell/api.ts'
import { useKeys } from '../shell/keyboard.ts'
import { useMonth } from '../shell/month.ts'
import { isUnderWay, useRuns } from '../shell/runs.ts'
import { useView } from '../shell/useView.ts'

const { view, refused } = useView<ConnectView>(() => '/connect')
const { api, changed } = useMonth()
const runs = useRuns()
const format = useFormat()
const checking = ref(false)
const checkRefused = ref<Refused | null>(null)

const systems = computed(() => view.value?.systems ?? [])
const checks = computed(() => systems.value.flatMap((s) => s.checks))
const failing = computed(() => checks.value.filter((c) => c.state === 'fails'))
const never = computed(() => systems.value.length > 0 && systems.value.every((s) => s.pulledAt === null))
const STATE = { passes: 'holds', fails: 'breaks', open: 'open', 'not-checked': 'open' } as const
const WORD = { passes: 'passes', fails: 'fails', open: 'after a pull', 'not-checked': 'not checked' } as const

async function recheck(): Promise<void> {
  checking.value = true
  checkRefused.value = null
  try {
    await call('POST', `${api.value}/checks`)
    await changed()
  } catch (error) {
    checkRefused.value = asRefused(error)
  } finally {
    checking.value = false
  }
}
const pull = (): void => void runs.start('/pulls', { systemIds: null })
useKeys(() => [{ key: 'p', does: 'pull all systems', act: pull }, { key: 'r', does: 'check again', act: () => void recheck() }])

function came(counts: ConnectView['systems'][number]['lastPull']): string {
  const parts = counts.filter((c) => c.added + c.changed + c.removed + c.unreadable > 0).map((c) => {
    const words = [c.added && `${c.added} new`, c.changed && `${c.changed} changed`, c.removed && `${c.removed} removed`, c.unreadable && `${c.unreadable} unreadable`].filter(Boolean)
    return `${c.resource.replaceAll('-', ' ')}: ${words.join(', ')}`
  })
  return parts.join(' · ') || 'nothing changed since the pull before'
}
</script>

<template>
  <main class="page">
    <div class="head">
      <div>
        <p class="question">Is each system ready?</p>
        <p class="verdict" data-verdict>
          <template v-if="!view"><strong>Reading</strong></template>
          <template v-else-if="checks.length === 0"><strong>Not known yet.</strong> Nothing was pulled or checked</template>
          <template v-else-if="failing.length === 0"><strong>Yes.</strong> {{ count(checks.length, 'check') }} of {{ count(systems.length, 'system') }} pass</template>
          <template v-else><strong>No.</strong> {{ count(failing.length, 'check fails', 'checks fail') }} of {{ checks.length }}<template v-if="failing.some((c) => c.blocks)">; nothing is posted until mended</template></template>
        </p>
      </div>
      <div class="head-actions">
        <button class="do" type="button" :disabled="checking" @click="recheck">{{ checking ? 'Checking' : 'Check again' }} <kbd>r</kbd></button>
        <button class="do" :class="{ first: never || failing.length === 0 }" type="button" :disabled="isUnderWay(runs.current.value)" @click="pull">Pull all systems <kbd>p</kbd></button>
      </div>
    </div>
    <p v-if="refused ?? checkRefused" class="note bad" role="alert">{{ (refused ?? checkRefused)?.says }} {{ (refused ?? checkRefused)?.mend }}</p>
    <div v-if="view && systems.length === 0" class="empty"><strong>No system is connected</strong>An administrator connects a ledger and a billing system through the API (see /api/docs).</div>

    <div class="systems">
      <section v-for="system in systems" :key="system.id" class="system" :data-system="system.id">
        <header>
          <h2>{{ system.name }}</h2>
          <p class="soft">{{ system.product }}, bound to <b>{{ system.company }}</b> · <a v-if="system.webAddress" :href="system.webAddress" target="_blank" rel="noreferrer">open it</a></p>
          <p class="soft"><template v-if="system.pulledAt">Pulled {{ format.instant(system.pulledAt) }}: {{ came(system.lastPull) }}</template><template v-else>Not pulled yet</template></p>
        </header>
        <table v-if="system.checks.length > 0" class="sheet">
          <tbody>
            <tr v-for="check in system.checks" :key="check.code" :class="{ failing: check.state === 'fails' }" :data-check="check.code" :data-state="check.state">
              <td class="state"><StateMark :state="STATE[check.state]" :word="WORD[check.state]" /></td>
              <td class="check">
                <p><span :class="{ strong: check.state === 'fails' }">{{ check.question }}</span> <span class="soft">{{ check.fact }}</span></p>
                <p v-if="check.state === 'fails'" class="why">{{ check.why }} <b>{{ check.mend }}</b> <a v-if="system.webAddress" :href="system.webAddress" target="_blank" rel="noreferrer">Open {{ system.product }}</a></p>
              </td>
            </tr>
          </tbody>
        </table>
        <p v-else class="soft pad">Its readiness is checked with the first pull.</p>
        <div v-if="system.changes.length > 0" class="changes">
          <h3>What changed there with this pull</h3>
          <p v-for="(change, at) in system.changes" :key="at">
            <b>{{ change.label }}</b> <span class="soft">{{ change.resource.replaceAll('-', ' ') }} {{ change.kind }}</span>
            <span v-for="field in change.fields" :key="field.field" class="field">{{ field.field }}: {{ field.from || 'empty' }} → {{ field.to || 'empty' }}</span>
          </p>
          <p v-if="system.moreChanges > 0" class="soft">and {{ system.moreChanges }} more</p>
        </div>
        <p v-for="(finding, at) in system.findings" :key="at" class="note bad">{{ finding.says }} {{ finding.mend }}</p>
      </section>
    </div>
  </main>
</template>

<style scoped>
.systems { columns: 480px 2; column-gap: 20px; }
.system { break-inside: avoid; margin-bottom: 22px; }
.system > header { margin-bottom: 6px; }
h2 { font-size: 18px; font-weight: 700; }
.sheet td { white-space: normal; max-width: none; vertical-align: top; padding: 5px 8px; height: auto; }
.state { width: 118px; white-space: nowrap !important; }
.failing td { background: var(--rust-wash); }
.why { font-size: 14px; margin-top: 2px; }
.changes { margin-top: 12px; font-size: 14px; }
.changes h3 { font-weight: 600; color: var(--soft); font-size: 13px; }
.field { display: block; padding-left: 14px; color: var(--soft); }
.pad { padding: 12px 0; }
@media (max-width: 760px) { .systems { columns: 1; } }
</style>
