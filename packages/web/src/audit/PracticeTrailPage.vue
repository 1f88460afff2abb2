<script setup lang="ts">
import PracticeBand from '../practice/PracticeBand.vue'
import TrailSheet from './TrailSheet.vue'

/** Who came and went, and what was done to people and legal entities: of the practice, not of any entity's books. */
document.title = 'trail · Axion'
const instants = new Intl.DateTimeFormat(undefined, {
  day: 'numeric',
  month: 'short',
  hour: 'numeric',
  minute: '2-digit',
})
</script>

<template>
  <div>
    <PracticeBand />
    <TrailSheet
      api="/api/practice/trail"
      inside="the terminal"
      question="Who came and went, and who let them?"
      :instant="(iso) => instants.format(new Date(iso))"
    />
  </div>
</template>
