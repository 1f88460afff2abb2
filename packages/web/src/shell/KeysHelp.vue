<script setup lang="ts">
import { computed } from 'vue'
import { allKeys } from './keyboard.ts'

const shown = defineModel<boolean>({ required: true })
const keys = computed(() => (shown.value ? allKeys() : []))
</script>

<template>
  <v-dialog v-model="shown" max-width="420" aria-label="Keys on this page">
    <div class="dialog" role="document">
      <h2>Keys on this page</h2>
      <dl>
        <template v-for="key in keys" :key="key.key"
          ><dt>{{ key.key }}</dt>
          <dd>{{ key.does }}</dd></template
        >
      </dl>
      <div class="actions"><button type="button" class="do" @click="shown = false">Close</button></div>
    </div>
  </v-dialog>
</template>

<style scoped>
dl {
  display: grid;
  grid-template-columns: 110px 1fr;
  gap: 3px 12px;
  margin: 0;
}
dt {
  font-weight: 600;
}
dd {
  margin: 0;
}
</style>
