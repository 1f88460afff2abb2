<script setup lang="ts">
import EvidenceDock from './EvidenceDock.vue'
import { useEvidence } from './useEvidence.ts'

const evidence = useEvidence()
</script>

<template>
  <main class="page">
    <p class="question">What stands behind this amount?</p>
    <EvidenceDock alone />
    <div v-if="evidence.open.value === null" class="empty">
      <strong>No amount is open</strong>Open one from the close sheet.
    </div>
  </main>
</template>
