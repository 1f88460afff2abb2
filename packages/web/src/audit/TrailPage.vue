<script setup lang="ts">
import { useFormat } from '../figures/format.ts'
import { useMonth } from '../shell/month.ts'
import TrailSheet from './TrailSheet.vue'

/** What was done in this legal entity. */
const { entity } = useMonth()
const format = useFormat()
</script>

<template>
  <TrailSheet
    :api="`/api/entities/${entity.id}/trail`"
    question="Who did what, and from where?"
    :instant="format.instant"
    inside="a worker"
  />
</template>
