<script setup lang="ts">
import type { AlignKind, GridRow } from '@axion/contract'
import { computed, ref } from 'vue'
import NameChoice from './NameChoice.vue'
import { EVIDENCE_WORDS } from './words.ts'

/** What a system's object is to be linked to: its candidates first, then what of the baseline is found by typing. */
const props = defineProps<{ row: GridRow; kind: AlignKind }>()
const emit = defineEmits<{ link: [baselineId: string] }>()
const candidates = computed(() => props.row.extra?.candidates ?? [])
const chosen = ref(candidates.value.length === 1 ? (candidates.value[0]?.id ?? '') : '')
const evidence = computed(() => candidates.value[0]?.evidence.map((e) => EVIDENCE_WORDS[e]).join(', ') ?? '')
</script>

<template>
  <span class="choice" @click.stop>
    <NameChoice
      v-model="chosen"
      :names="`/align/${kind}/names`"
      :first="candidates"
      :label="`What ${row.name} is`"
      :placeholder="candidates.length > 1 ? `one of ${candidates.length} candidates` : 'choose what it is'"
    />
    <button class="do small" type="button" :disabled="chosen === ''" @click="emit('link', chosen)">
      Link
    </button>
    <span v-if="candidates.length === 1" class="soft why" :title="evidence">{{ evidence }}</span>
  </span>
</template>

<style scoped>
.choice {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 8px;
  align-items: center;
}
.small {
  min-height: 25px;
  padding: 0 10px;
}
.why {
  white-space: normal;
}
</style>
