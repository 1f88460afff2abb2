<script setup lang="ts">
import { fieldWords, type ConnectView } from '@axion/contract'
import { CHANGE_WORDS } from './words.ts'

/** What of a system's set-up its last pull found otherwise than the one before. */
defineProps<{ system: ConnectView['systems'][number] }>()
</script>

<template>
  <div class="changes">
    <h3>What changed there with this pull</h3>
    <p v-for="(change, at) in system.changes" :key="at">
      <b>{{ change.label }}</b>{{ ' ' }}
      <span class="soft"
        >{{ change.resource.replaceAll('-', ' ') }} {{ CHANGE_WORDS[change.kind] ?? change.kind }}</span
      >
      <span v-for="field in change.kind === 'changed' ? change.fields : []" :key="field.field" class="field"
        >{{ fieldWords(field.field) }}: {{ field.from || 'empty' }} → {{ field.to || 'empty' }}</span
      >
    </p>
    <p v-if="system.moreChanges > 0" class="soft">
      and
      <RouterLink :to="{ name: 'changes', params: $route.params, query: { system: system.id } }"
        >{{ system.moreChanges }} more</RouterLink
      >
    </p>
  </div>
</template>

<style scoped>
.changes {
  margin-top: 12px;
  font-size: 14px;
}
.changes h3 {
  font-weight: 600;
  color: var(--soft);
  font-size: 13px;
}
.field {
  display: block;
  padding-left: 14px;
  color: var(--soft);
}
</style>
