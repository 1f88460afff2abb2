<script setup lang="ts">
/** The mark of a voice: a ring for stated, a lozenge for expected, a solid square for booked. */
defineProps<{ voice: 'stated' | 'expected' | 'booked' }>()
</script>

<template>
  <svg class="mark" viewBox="0 0 12 12" width="11" height="11" aria-hidden="true">
    <circle
      v-if="voice === 'stated'"
      cx="6"
      cy="6"
      r="4.4"
      fill="none"
      stroke="currentColor"
      stroke-width="1.5"
    />
    <path
      v-else-if="voice === 'expected'"
      d="M6 .9 11.1 6 6 11.1.9 6Z"
      fill="none"
      stroke="var(--plum)"
      stroke-width="1.5"
    />
    <rect v-else x="1.2" y="1.2" width="9.6" height="9.6" fill="var(--slate)" />
  </svg>
</template>

<style scoped>
.mark {
  vertical-align: -1px;
  margin-right: 5px;
}
</style>
