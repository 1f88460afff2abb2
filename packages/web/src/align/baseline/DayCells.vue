<script setup lang="ts">
import { useFormat } from '../../figures/format.ts'
import type { Version } from './draft.ts'

/** From when to when a version holds, as two cells of its row. */
defineProps<{ version: Pick<Version, 'from' | 'to'> }>()
const format = useFormat()
</script>

<template>
  <td>{{ version.from ? format.longDay(version.from) : 'the beginning' }}</td>
  <td>{{ version.to ? format.longDay(version.to) : 'no end' }}</td>
</template>
