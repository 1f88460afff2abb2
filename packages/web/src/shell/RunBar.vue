<script setup lang="ts">
import { computed } from 'vue'
import { count } from '../figures/format.ts'
import { isUnderWay, useRuns } from './runs.ts'

/** The run under way with its progress, or how it ended, until it is dismissed. */
const { current, refused, cancel, dismiss } = useRuns()
const NAMES: Readonly<Record<string, string>> = {
  pull: 'Pull',
  rehearse: 'Rehearsal',
  prove: 'Proof',
  'full-proof': 'Full proof',
  compare: 'Comparison of bookings',
  post: 'Posting',
  withdraw: 'Withdrawal',
  mend: 'Mending',
  bulk: 'Alignment',
  undo: 'Taking back',
  import: 'Import',
  '': 'Run',
}
const CANCELLABLE: readonly string[] = ['post', 'withdraw', 'bulk', 'import', 'full-proof']
const share = computed(() => {
  const run = current.value
  return run && run.total > 0 ? (100 * (run.done + run.failed)) / run.total : null
})
const ended = computed(() => {
  const run = current.value
  if (!run || isUnderWay(run)) return ''
  if (run.problem) return `${run.problem.says} ${run.problem.mend}`
  if (run.kind === 'pull') {
    const parts = run.pulled.map((p) => {
      if (p.problem) return `${p.problem.says} ${p.problem.mend}`
      const sums = p.counts.reduce(
        (t, c) => ({
          added: t.added + c.added,
          changed: t.changed + c.changed,
          removed: t.removed + c.removed,
          unreadable: t.unreadable + c.unreadable,
        }),
        { added: 0, changed: 0, removed: 0, unreadable: 0 },
      )
      const words = [
        sums.added && `${sums.added} new`,
        sums.changed && `${sums.changed} changed`,
        sums.removed && `${sums.removed} removed`,
        sums.unreadable && `${sums.unreadable} unreadable`,
      ].filter(Boolean)
      return `${p.system}: ${words.join(', ') || 'nothing changed'}`
    })
    return `${parts.join('. ')}.`
  }
  if (run.kind === 'rehearse')
    return `${count(run.done, 'booking')} composed${run.failed > 0 ? `, ${run.failed} blocked` : ''}. Nothing was sent.`
  if (run.kind === 'prove') return 'What was changed is proved anew.'
  if (run.kind === 'full-proof') return `${count(run.total, 'document')} worked out anew and compared.`
  if (run.kind === 'compare')
    return `${count(run.done, 'booking')} compared with what they would be now. Post offers those that would go elsewhere again.`
  if (run.kind === 'bulk')
    return `${count(run.done, 'change')} made${run.failed > 0 ? `, ${run.failed} not: ${run.problems.map((p) => `${p.what}: ${p.says}`).join(' ')}` : ''}.`
  if (run.kind === 'import') return `${count(run.done, 'row')} gone through.`
  if (run.kind === 'undo') return 'It stands as it did before.'
  const unread = run.pulled.flatMap((p) => (p.problem ? [`${p.problem.says} ${p.problem.mend}`] : []))
  const after =
    unread.length > 0 ? `. ${unread.join(' ')}` : run.kind === 'mend' ? ', and the ledger pulled again.' : '.'
  return `${count(run.done, 'document')} ${run.kind === 'withdraw' ? 'taken back' : 'sent'}${run.failed > 0 ? `, ${run.failed} failed` : ''}${after}`
})
</script>

<template>
  <div v-if="refused" class="runbar bad" role="alert">
    <p><b>Not done.</b> {{ refused.says }} {{ refused.mend }}</p>
    <button type="button" class="plain" @click="dismiss">Dismiss</button>
  </div>
  <div
    v-if="current"
    class="runbar"
    :class="{ bad: current.state === 'failed' || current.failed > 0 }"
    role="status"
    :data-run="current.state"
    :data-run-id="current.id"
  >
    <p>
      <b>{{ NAMES[current.kind] ?? current.kind }}</b>{{ ' ' }}
      <template v-if="isUnderWay(current)"
        >{{ current.step || (current.state === 'queued' ? 'is queued' : '')
        }}<template v-if="current.total > 0"
          >: {{ current.done + current.failed }} of {{ current.total }}</template
        ></template
      >
      <template v-else
        >{{
          current.state === 'cancelled'
            ? 'cancelled'
            : current.problem
              ? 'stopped'
              : current.state === 'failed'
                ? 'not all read'
                : 'done'
        }}. {{ ended }}</template
      >
    </p>
    <span v-if="isUnderWay(current)" class="track" aria-hidden="true"
      ><i :class="{ unknown: share === null }" :style="{ width: `${share ?? 30}%` }"
    /></span>
    <button
      v-if="isUnderWay(current) && CANCELLABLE.includes(current.kind)"
      type="button"
      class="plain"
      @click="cancel"
    >
      Cancel the rest
    </button>
    <button v-if="!isUnderWay(current)" type="button" class="plain" @click="dismiss">Dismiss</button>
  </div>
</template>

<style scoped>
.runbar {
  display: flex;
  gap: 14px;
  align-items: center;
  padding: 5px 20px;
  background: var(--slate-wash);
  border-bottom: 1px solid var(--rule);
  font-size: 14px;
}
.runbar.bad {
  background: var(--rust-wash);
}
p {
  flex: 1;
}
.track {
  width: 220px;
  height: 6px;
  background: var(--rule);
}
.track i {
  display: block;
  height: 100%;
  background: var(--slate);
}
.track i.unknown {
  opacity: 0.5;
}
</style>
