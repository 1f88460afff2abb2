<script setup lang="ts">
import type { RuleDraft, RulesView } from '@axion/contract'
import Amount from '../../figures/Amount.vue'
import { count, useFormat } from '../../figures/format.ts'
import { isBySource, sayThen, sayWhen } from './words.ts'

/** The rules in their order, as they are being written: what is not kept yet says so. */
const props = defineProps<{
  view: RulesView
  drafts: readonly RuleDraft[]
  kept: readonly RuleDraft[]
  may: boolean
}>()
defineEmits<{
  shift: [at: number, by: number]
  change: [rule: RuleDraft, at: number]
  remove: [at: number]
}>()
const format = useFormat()
/** What the month had of a rule that is kept. */
const held = (rule: RuleDraft): RulesView['rules'][number] | undefined =>
  props.view.rules.find((one) => one.code === rule.code && one.from === rule.from)
const isKept = (rule: RuleDraft): boolean =>
  props.kept.some((one) => JSON.stringify(one) === JSON.stringify(rule))
const dates = ({ from, to }: RuleDraft): string =>
  to === null
    ? `from ${format.value.longDay(from)}`
    : `${format.value.longDay(from)} to ${format.value.longDay(to)}`
</script>

<template>
  <div class="scroll" tabindex="0" role="region" aria-label="Rules">
    <table class="sheet" aria-label="Rules">
      <thead>
        <tr>
          <th scope="col" class="n">Place</th>
          <th scope="col">Rule</th>
          <th scope="col">When</th>
          <th scope="col">Then</th>
          <th scope="col">Holds</th>
          <th scope="col" class="n">Decided</th>
          <th scope="col" class="n">{{ view.currency }}</th>
          <th scope="col" aria-label="Change" />
        </tr>
      </thead>
      <tbody>
        <tr
          v-for="(rule, at) in drafts"
          :key="`${rule.code} ${rule.from} ${at}`"
          :data-rule="rule.code ?? ''"
        >
          <td class="n soft">{{ at + 1 }}</td>
          <td class="strong" :title="rule.name">
            {{ rule.name }}<small v-if="!isKept(rule)" class="unkept">not kept yet</small
            ><small
              v-if="isBySource(rule)"
              class="by-source"
              title="Agreed that its flag decides, and checked by nobody"
              >its source decides</small
            >
          </td>
          <td :title="sayWhen(rule, view)">{{ sayWhen(rule, view) }}</td>
          <td class="then" :title="sayThen(rule, view)">{{ sayThen(rule, view) }}</td>
          <td class="soft">{{ dates(rule) }}</td>
          <td class="n soft">{{ held(rule) ? count(held(rule)?.documents ?? 0, 'doc') : '–' }}</td>
          <td class="n">
            <Amount
              v-if="held(rule) && rule.code"
              :value="held(rule)?.amount ?? null"
              :of="{ of: 'lines', rule: rule.code }"
            />
          </td>
          <td class="acts">
            <template v-if="may"
              ><button
                class="plain"
                type="button"
                :disabled="at === 0"
                :aria-label="`Move ${rule.name} up`"
                @click="$emit('shift', at, -1)"
              >
                up</button
              >{{ ' ' }}
              <button
                class="plain"
                type="button"
                :disabled="at === drafts.length - 1"
                :aria-label="`Move ${rule.name} down`"
                @click="$emit('shift', at, 1)"
              >
                down</button
              >{{ ' ' }}
              <button
                class="plain"
                type="button"
                :aria-label="`Change ${rule.name}`"
                @click="$emit('change', rule, at)"
              >
                change</button
              >{{ ' ' }}
              <button
                class="plain"
                type="button"
                :aria-label="`Remove ${rule.name}`"
                @click="$emit('remove', at)"
              >
                remove
              </button></template
            >
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.unkept,
.by-source {
  display: block;
  font-weight: 400;
  font-size: 12px;
  color: var(--plum);
}
.by-source {
  color: var(--soft);
}
.sheet td.then {
  max-width: 330px;
}
.acts {
  text-align: right;
}
.acts .plain {
  font-size: 13px;
}
.acts .plain:disabled {
  opacity: 0.4;
  cursor: default;
}
</style>
