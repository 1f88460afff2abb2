<script setup lang="ts">
import type { ConnectView } from '@axion/contract'
import { computed, ref, watch } from 'vue'
import { call } from '../shell/api.ts'
import { useMonth } from '../shell/month.ts'
import RefusedNote from '../shell/RefusedNote.vue'
import { begun, useRuns } from '../shell/runs.ts'
import { useAttempt } from '../shell/useAttempt.ts'

/** For which systems a tax service computes: their documents are held against what it keeps of them. Without a word nothing is. */
const props = defineProps<{ system: ConnectView['systems'][number] }>()
const { api, changed, entity } = useMonth()
const { busy, refused, attempt } = useAttempt()
const runs = useRuns()
const offered = computed(() => props.system.computesFor ?? [])
const said = computed(() => offered.value.filter((one) => one.said))
const chosen = ref<string[]>([])
watch(said, (now) => (chosen.value = now.map(({ id }) => id)), { immediate: true })
const may = computed(() => entity.value.role === 'administrator')
const moved = computed(
  () => JSON.stringify([...chosen.value].sort()) !== JSON.stringify(said.value.map(({ id }) => id).sort()),
)
const keep = (): Promise<void> =>
  attempt(async () => {
    const address = `${api.value}/systems/${props.system.id}/computes-for`
    const { run } = await call<{ run: string }>('PUT', address, { systems: chosen.value })
    runs.follow(begun(run, 'prove'))
    await changed()
  })
</script>

<template>
  <form class="computing" :data-computing="system.id" @submit.prevent="keep">
    <fieldset :disabled="!may || busy">
      <span>It computes for</span>
      <label v-for="one in offered" :key="one.id"
        ><input v-model="chosen" type="checkbox" :value="one.id" /> {{ one.name }}</label
      >
      <span v-if="offered.length === 0" class="soft">nobody yet: connect a system that sells</span>
      <button v-if="moved" class="do" type="submit">Keep</button>
    </fieldset>
    <b v-if="said.length === 0 && offered.length > 0" class="hole" data-computes-for-nobody
      >Nobody said for which: what it keeps is held against nothing</b
    >
    <span v-else-if="said.length > 0" class="soft"
      >What it keeps of their documents is held against what they state, one by one</span
    >
    <RefusedNote :refused="refused" />
  </form>
</template>

<style scoped>
.computing {
  margin: 6px 0 0;
  font-size: 14px;
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  align-items: center;
}
fieldset {
  border: 0;
  margin: 0;
  padding: 0;
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  align-items: center;
}
.hole {
  color: var(--rust);
}
</style>
