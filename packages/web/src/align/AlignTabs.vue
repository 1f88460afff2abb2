<script setup lang="ts">
import { ALIGN_KINDS, type AlignKind } from '@axion/contract'
import { useRoute } from 'vue-router'
import { useMonth } from '../shell/month.ts'
import { KIND_WORDS } from './words.ts'

/** What is aligned, each with how many findings it has, and the rules over lines. */
defineProps<{
  chosen: AlignKind | 'rules' | 'registrations' | 'sale' | 'decisions' | 'baseline' | 'opening'
}>()
const PAGES = {
  registrations: 'Registrations',
  rules: 'Line rules',
  sale: 'A sale',
  decisions: 'Decisions',
  baseline: 'Baseline',
  opening: 'Opening',
} as const
const route = useRoute()
const { path } = useMonth()
</script>

<template>
  <nav class="tabs" aria-label="What is aligned">
    <RouterLink
      v-for="each in ALIGN_KINDS"
      :key="each"
      class="plain"
      :class="{ chosen: chosen === each }"
      :to="{ name: 'align', params: { ...route.params, kind: each } }"
      >{{ KIND_WORDS[each].title
      }}<small v-if="path && path.align.byKind[each] > 0">{{ path.align.byKind[each] }}</small></RouterLink
    >
    <RouterLink
      v-for="(title, name) in PAGES"
      :key="name"
      class="plain"
      :class="{ chosen: chosen === name }"
      :to="{ name, params: { entity: route.params['entity'], month: route.params['month'] } }"
      >{{ title
      }}<small v-if="name === 'rules' && path && path.align.byKind.amounts > 0">{{
        path.align.byKind.amounts
      }}</small></RouterLink
    >
  </nav>
</template>

<style scoped>
.tabs {
  display: flex;
  gap: 4px 9px;
  align-items: center;
  margin-bottom: 8px;
  flex-wrap: wrap;
}
.tabs .plain {
  text-decoration: none;
  font-size: 13.5px;
  padding-bottom: 2px;
  border-bottom: 2px solid transparent;
}
.tabs .plain.chosen {
  border-bottom-color: var(--plum);
}
@media (max-width: 760px) {
  .tabs {
    flex-wrap: nowrap;
    overflow-x: auto;
    white-space: nowrap;
  }
}
.tabs small {
  margin-left: 5px;
  color: var(--rust);
  font-weight: 600;
}
</style>
