<script setup lang="ts">
import type { Evidence } from '@axion/contract'
import Amount from '../figures/Amount.vue'
import { count, useFormat } from '../figures/format.ts'

/** A total, opened into the members that sum to it exactly. */
defineProps<{ evidence: Extract<Evidence, { kind: 'members' }>; chosen: number }>()
const format = useFormat()
</script>

<template>
  <div class="members" data-evidence="members">
    <p class="soft">
      {{ count(evidence.members.length, 'part') }} that sum to {{ format.amount(evidence.amount) }}
      {{ evidence.currency }} exactly
    </p>
    <ol tabindex="0" aria-label="Parts">
      <li v-for="(member, at) in evidence.members" :key="at" :class="{ chosen: at === chosen }">
        <span class="label">{{ member.label }}</span><span class="detail">{{ member.detail }}</span>
        <Amount :value="member.amount" :of="member.open" />
      </li>
    </ol>
  </div>
</template>

<style scoped>
.members {
  min-height: 0;
  display: flex;
  flex-direction: column;
  gap: 6px;
}
ol {
  list-style: none;
  margin: 0;
  padding: 0;
  overflow-y: auto;
  columns: 3 330px;
  column-gap: 28px;
  column-rule: 1px solid var(--rule);
}
li {
  display: flex;
  gap: 10px;
  align-items: baseline;
  padding: 2px 4px;
  border-bottom: 1px solid var(--rule);
  break-inside: avoid;
  font-size: 14px;
}
li.chosen {
  background: var(--plum-wash);
  box-shadow: inset 3px 0 0 var(--plum);
}
.label {
  font-weight: 600;
  white-space: nowrap;
}
.detail {
  flex: 1;
  color: var(--soft);
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
