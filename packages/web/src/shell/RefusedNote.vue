<script setup lang="ts">
import type { Refused } from './api.ts'

/** What the server refused, and how to mend it, in its own words. */
defineProps<{ refused: Refused | null }>()
</script>

<template>
  <p v-if="refused" class="note bad" role="alert">{{ refused.says }} {{ refused.mend }}</p>
</template>
