<script setup lang="ts">
import { count } from '../figures/format.ts'

/** Where what was read of a list ends: how much there is, once that is counted, and the rest of it. */
defineProps<{ shown: number; total: number | null; one: string; reading: boolean; more: boolean }>()
defineEmits<{ more: [] }>()
</script>

<template>
  <p v-if="more" class="end soft">
    {{
      total === null
        ? `The first ${count(shown, one)}.`
        : `${shown.toLocaleString('en-US')} of ${count(total, one)}.`
    }}
    <button type="button" class="plain" data-more :disabled="reading" @click="$emit('more')">
      {{ reading ? 'Reading' : 'Show more' }}
    </button>
  </p>
</template>

<style scoped>
.end {
  padding: 6px 10px;
  font-size: 14px;
}
</style>
