<script setup lang="ts">
import { onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import EvidenceDock from '../evidence/EvidenceDock.vue'
import { useEvidence } from '../evidence/useEvidence.ts'
import ClosedNote from './ClosedNote.vue'
import FindBox from './FindBox.vue'
import KeysHelp from './KeysHelp.vue'
import { listenForKeys, useKeys } from './keyboard.ts'
import { provideMonth } from './month.ts'
import { provideRuns } from './runs.ts'
import OlderNote from './OlderNote.vue'
import OpeningNote from './OpeningNote.vue'
import RunBar from './RunBar.vue'
import StagePath from './StagePath.vue'

const month = provideMonth()
const runs = provideRuns(month)
const evidence = useEvidence()
const route = useRoute()
const router = useRouter()
const finding = ref(false)
const helping = ref(false)

const go =
  (name: string, params: Record<string, string> = {}) =>
  () =>
    void router.push({
      name,
      params: { entity: route.params['entity'], month: route.params['month'], ...params },
    })
useKeys(() => [
  { key: 'g h', does: 'close sheet', act: go('close') },
  { key: 'g c', does: 'Connect', act: go('connect') },
  { key: 'g a', does: 'Align', act: go('align', { kind: 'rates' }) },
  { key: 'g p', does: 'Post', act: go('post') },
  { key: 'g t', does: 'Tie out', act: go('tie-out') },
  { key: 'g b', does: 'practice board', act: () => void router.push({ name: 'practice' }) },
  { key: 'Ctrl+K', does: 'find anything', act: () => (finding.value = true) },
  { key: '?', does: 'list the keys', act: () => (helping.value = true) },
])

let stop = (): void => undefined
onMounted(() => (stop = listenForKeys()))
onBeforeUnmount(() => stop())
watch(month.refused, (refused) => (runs.refused.value = refused))
watch(
  () => [month.entity.value.name, String(route.name ?? '')] as const,
  ([name, view]) => (document.title = `${view.replaceAll('-', ' ')} · ${name} · Axion`),
  { immediate: true },
)
</script>

<template>
  <div class="shell" :class="{ docked: evidence.open.value !== null && route.name !== 'evidence' }">
    <StagePath @find="finding = true" @help="helping = true" />
    <RunBar />
    <ClosedNote />
    <OlderNote />
    <OpeningNote />
    <RouterView />
    <EvidenceDock v-if="route.name !== 'evidence'" />
    <FindBox v-model="finding" />
    <KeysHelp v-model="helping" />
  </div>
</template>

<style scoped>
.shell {
  display: flex;
  flex-direction: column;
  height: 100vh;
}
.shell.docked {
  padding-bottom: 290px;
}
.shell > :deep(.page) {
  flex: 1;
  min-height: 0;
  overflow: auto;
}
@media print {
  .shell {
    height: auto;
  }
}
@media (max-width: 760px) {
  .shell {
    height: auto;
    min-height: 100vh;
  }
}
</style>
