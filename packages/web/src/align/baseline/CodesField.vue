<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import NameChoice from '../NameChoice.vue'

/** Several codes of one kind: each that is chosen stands there until it is taken off. */
const props = defineProps<{ names: string; label: string }>()
const cell = defineModel<string>({ required: true })
const codes = computed(() =>
  cell.value
    .split(';')
    .map((code) => code.trim())
    .filter(Boolean),
)
const next = ref('')
/** What is chosen is cleared for the next one. */
const turn = ref(0)
watch(next, (code) => {
  if (code === '') return
  if (!codes.value.includes(code)) cell.value = [...codes.value, code].join('; ')
  next.value = ''
  turn.value += 1
})
const without = (code: string): void => {
  cell.value = codes.value.filter((one) => one !== code).join('; ')
}
</script>

<template>
  <span class="codes">
    <span v-for="code in codes" :key="code" class="code"
      >{{ code
      }}<button
        type="button"
        class="plain"
        :aria-label="`Take ${code} off ${props.label}`"
        @click="without(code)"
      >
        off
      </button></span
    >
    <NameChoice :key="turn" v-model="next" :names="names" :label="label" placeholder="add one" />
  </span>
</template>

<style scoped>
.codes {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  align-items: center;
}
.code .plain {
  margin-left: 5px;
  font-size: 12.5px;
}
</style>
