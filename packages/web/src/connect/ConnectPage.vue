<script setup lang="ts">
import { KINDS_OF, type ConnectView } from '@axion/contract'
import { computed, ref } from 'vue'
import { useFormat } from '../figures/format.ts'
import StateMark from '../figures/StateMark.vue'
import { call } from '../shell/api.ts'
import { useKeys } from '../shell/keyboard.ts'
import { useMonth } from '../shell/month.ts'
import { isUnderWay, useRuns } from '../shell/runs.ts'
import { useAttempt } from '../shell/useAttempt.ts'
import { useView } from '../shell/useView.ts'
import { connectVerdict } from './verdict.ts'
import { CHECK_STATE, CHECK_WORD, ROLE_WORDS } from './words.ts'
import ConnectForm from './ConnectForm.vue'
import ComputingPanel from './ComputingPanel.vue'
import InviteForm from './InviteForm.vue'
import PulledChanges from './PulledChanges.vue'
import ScopePanel from './ScopePanel.vue'
import SystemActions from './SystemActions.vue'
import SystemStreams from './SystemStreams.vue'
import WaysPanel from './WaysPanel.vue'
import RefusedNote from '../shell/RefusedNote.vue'

const { view, refused } = useView<ConnectView>(() => '/connect')
const { api, changed, entity } = useMonth()
const runs = useRuns()
const format = useFormat()
const { busy: checking, refused: checkRefused, attempt } = useAttempt()

const systems = computed(() => view.value?.systems ?? [])
const verdict = computed(() => connectVerdict(systems.value))
const failing = computed(() => systems.value.some((s) => s.checks.some((c) => c.state === 'fails')))
const never = computed(() => systems.value.length > 0 && systems.value.every((s) => s.pulledAt === null))
const administers = computed(() => entity.value.role === 'administrator')
const connecting = ref(false)
/** One that was taken off, and is to come back. */
const again = ref<ConnectView['disconnected'][number] | null>(null)

const recheck = (): Promise<void> =>
  attempt(async () => {
    await call('POST', `${api.value}/checks`)
    await changed()
  })
const pull = (): void => void runs.start('/pulls', { systemIds: null })
useKeys(() => [
  { key: 'p', does: 'pull all systems', act: pull },
  { key: 'r', does: 'check again', act: () => void recheck() },
])

function came(counts: ConnectView['systems'][number]['lastPull']): string {
  const parts = counts
    .filter((c) => c.added + c.changed + c.removed + c.unreadable > 0)
    .map((c) => {
      const words = [
        c.added && `${c.added} new`,
        c.changed && `${c.changed} changed`,
        c.removed && `${c.removed} removed`,
        c.unreadable && `${c.unreadable} unreadable`,
      ].filter(Boolean)
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
          <template v-else
            ><strong>{{ verdict.answer }}</strong> {{ verdict.because }}</template
          >
        </p>
      </div>
      <div class="head-actions">
        <RouterLink class="plain" :to="{ name: 'changes', params: $route.params }"
          >What changed there</RouterLink
        >
        <RouterLink class="plain" :to="{ name: 'spreadsheets', params: $route.params }"
          >Spreadsheets</RouterLink
        >
        <button v-if="systems.length > 0" class="do" type="button" :disabled="checking" @click="recheck">
          {{ checking ? 'Checking' : 'Check again' }} <kbd>r</kbd>
        </button>
        <button
          v-if="systems.length > 0"
          class="do"
          :class="{ first: never || !failing }"
          type="button"
          :disabled="isUnderWay(runs.current.value)"
          @click="pull"
        >
          Pull all systems <kbd>p</kbd>
        </button>
      </div>
    </div>
    <RefusedNote :refused="refused ?? checkRefused" />
    <div v-if="view && systems.length === 0" class="empty">
      <strong>No system is connected</strong
      >{{
        administers
          ? 'Connect the ledger first, then what it sells and buys with.'
          : 'An administrator of the legal entity connects its ledger, and what it sells and buys with.'
      }}
    </div>

    <template v-if="administers && view && entity.closedOn === null">
      <ConnectForm v-if="again" :key="again.id" :of="{ ...again, address: null }" @done="again = null" />
      <ConnectForm v-else-if="connecting" :taken="systems" @done="connecting = false" />
      <div v-else class="add" :class="{ alone: systems.length === 0 }">
        <button class="do" :class="{ first: systems.length === 0 }" type="button" @click="connecting = true">
          Connect a system
        </button>
        <InviteForm />
      </div>
    </template>
    <p v-if="view && view.disconnected.length > 0" class="off soft">
      Taken off, with all that is known of them kept:
      <template v-for="(one, at) in view.disconnected" :key="one.id"
        >{{ at > 0 ? ', ' : '' }}{{ one.name }} ({{ format.instant(one.at)
        }}<template v-if="administers"
          >, <button class="plain" type="button" @click="again = one">connect it again</button></template
        >)</template
      >.
    </p>
    <div class="systems">
      <section v-for="system in systems" :key="system.id" class="system" :data-system="system.id">
        <header>
          <h2>{{ system.name }}</h2>
          <p class="soft">
            {{ ROLE_WORDS[system.role] }}: {{ system.product }}, bound to <b>{{ system.company }}</b><template
              v-if="!system.goesOut"
            >
              · <b class="closed">nothing is sent to it</b></template
            ><template v-if="system.webAddress">
              · <a :href="system.webAddress" target="_blank" rel="noreferrer">open it</a></template
            >
          </p>
          <p class="soft">
            <template v-if="system.byFiles"
              >Its set-up comes as
              <RouterLink :to="{ name: 'spreadsheets', params: $route.params, query: { target: system.id } }"
                >spreadsheets</RouterLink
              >. </template
            ><template v-if="system.pulledAt"
              >Pulled {{ format.instant(system.pulledAt) }}: {{ came(system.lastPull) }}</template
            ><template v-else>Not pulled yet</template>
          </p>
          <p v-if="system.notFresh" class="note bad" data-failed-pull>
            <b>The pull of {{ format.instant(system.notFresh.failedAt) }} failed.</b>
            {{ system.notFresh.says }} {{ system.notFresh.mend }}
            {{
              system.notFresh.since
                ? `What is known of it is from ${format.instant(system.notFresh.since)}.`
                : 'Nothing is known of it.'
            }}
          </p>
        </header>
        <SystemActions v-if="administers && entity.closedOn === null" :system="system" />
        <p v-for="(finding, at) in system.findings" :key="at" class="note bad">
          {{ finding.says }} {{ finding.mend }}
        </p>
        <table v-if="system.checks.length > 0" class="sheet">
          <tbody>
            <tr
              v-for="check in system.checks"
              :key="check.code"
              :class="{ failing: check.state === 'fails' }"
              :data-check="check.code"
              :data-state="check.state"
            >
              <td class="state">
                <StateMark :state="CHECK_STATE[check.state]" :word="CHECK_WORD[check.state]" />
              </td>
              <td class="check">
                <p>
                  <span :class="{ strong: check.state === 'fails' }">{{ check.question }}</span>{{ ' ' }}
                  <span class="soft">{{ check.fact }}</span>
                </p>
                <p v-if="check.state === 'fails'" class="why">
                  {{ check.why }} <b>{{ check.mend }}</b>{{ ' ' }}
                  <a v-if="system.webAddress" :href="system.webAddress" target="_blank" rel="noreferrer"
                    >Open {{ system.product }}</a
                  >
                </p>
              </td>
            </tr>
          </tbody>
        </table>
        <p v-else class="soft pad">Its readiness is checked with the first pull.</p>
        <PulledChanges v-if="system.changes.length > 0" :system="system" />
        <SystemStreams
          v-if="system.streams.length > 1 || system.streams.some((s) => s.silence)"
          :system="system"
        />
        <ComputingPanel v-if="system.computesFor" :system="system" />
        <ScopePanel
          v-if="!system.byFiles"
          :system="system.id"
          :name="system.name"
          :role="system.role"
          :left-out="system.leftOut"
          :schedule="system.schedule"
        />
        <WaysPanel
          v-if="
            system.pulledAt &&
            !system.byFiles &&
            (system.role === 'ledger' || KINDS_OF[system.role].length > 0)
          "
          :system="system.id"
          :name="system.name"
        />
      </section>
    </div>
  </main>
</template>

<style scoped src="./rows.css"></style>

<style scoped>
.systems {
  columns: 480px 2;
  column-gap: 20px;
}
.system {
  break-inside: avoid;
  margin-bottom: 22px;
}
.system > header {
  margin-bottom: 6px;
}
h2 {
  font-size: 18px;
  font-weight: 700;
}
.pad {
  padding: 12px 0;
}
.add {
  display: flex;
  gap: 10px;
  align-items: flex-start;
  flex-wrap: wrap;
  margin: 16px 0 8px;
}
.add.alone {
  justify-content: center;
}
.closed {
  color: var(--rust);
}
.off {
  margin-top: 10px;
  font-size: 14px;
}
@media (max-width: 760px) {
  .systems {
    columns: 1;
  }
}
</style>
