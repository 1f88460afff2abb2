<script setup lang="ts">
import type { CopySources } from '@axion/contract'
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { useView } from '../../shell/useView.ts'

/** The way to another legal entity's baseline, and how much of one that is followed was changed there. */
const route = useRoute()
const { view } = useView<CopySources>(() => '/copied')
const waiting = computed(() => (view.value?.sources ?? []).reduce((sum, one) => sum + (one.waiting ?? 0), 0))
const to = computed(() => ({
  name: 'copied',
  params: { entity: route.params['entity'], month: route.params['month'] },
}))
</script>

<template>
  <RouterLink :to="to">another legal entity</RouterLink
  ><b v-if="waiting > 0" data-waiting>, where {{ waiting }} changed</b>
</template>

<style scoped>
b {
  color: var(--rust);
  font-weight: 600;
}
</style>
