<script setup lang="ts">
import { count } from '../figures/format.ts'

/** Where what was read of a list ends: how much there is, and the rest of it. */
defineProps<{ shown: number; total: number; one: string; reading: boolean }>()
defineEmits<{ more: [] }>()
</script>

<template>
  <p v-if="shown < total" class="end soft">
    {{ shown.toLocaleString('en-US') }} of {{ count(total, one) }}.
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
