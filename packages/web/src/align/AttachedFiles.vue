<script setup lang="ts">
import type { AttachedFile } from '@axion/contract'
import { call, sendFile } from '../shell/api.ts'
import RefusedNote from '../shell/RefusedNote.vue'
import { useMonth } from '../shell/month.ts'
import { useAttempt } from '../shell/useAttempt.ts'

/** The files that prove something, to be saved, added to and taken away. */
const props = defineProps<{
  files: readonly AttachedFile[]
  /** What they prove, for whoever hears it. */
  of: string
  /** Where a further one is sent, its name left open; nowhere for whoever only reads. */
  to: ((name: string) => string) | null
}>()
const { api, changed } = useMonth()
const { busy, refused, attempt } = useAttempt()
const attach = (event: Event): Promise<void> =>
  attempt(async () => {
    const input = event.target as HTMLInputElement
    const [file] = input.files ?? []
    if (file && props.to) await sendFile(`${api.value}${props.to(file.name)}`, file)
    input.value = ''
    await changed()
  })
const detach = (id: string): Promise<void> =>
  attempt(async () => {
    await call('DELETE', `${api.value}/attached/${id}`)
    await changed()
  })
const kilobytes = (size: number): string => `${Math.max(1, Math.round(size / 1024)).toLocaleString()} kB`
</script>

<template>
  <span class="files">
    <span v-for="file in files" :key="file.id"
      ><a :href="`${api}/attached/${file.id}`" :title="`Attached by ${file.person}`" download>{{
        file.name
      }}</a
      >{{ ' ' }} <small class="soft">{{ kilobytes(file.size) }}</small>{{ ' ' }}
      <button
        v-if="to"
        class="plain"
        type="button"
        :disabled="busy"
        :aria-label="`Take ${file.name} away`"
        @click="detach(file.id)"
      >
        take away
      </button></span
    >
    <label v-if="to" class="attach"
      >attach a file<input
        type="file"
        accept=".pdf,.png,.jpg,.jpeg"
        :disabled="busy"
        :aria-label="`Attach a file to ${of}`"
        @change="attach"
    /></label>
    <RefusedNote :refused="refused" />
  </span>
</template>

<style scoped>
.files {
  white-space: normal;
}
.files > span {
  margin-right: 14px;
}
.attach {
  text-decoration: underline;
  text-underline-offset: 3px;
  color: var(--soft);
  cursor: pointer;
  position: relative;
}
.attach input {
  position: absolute;
  inset: 0;
  width: 100%;
  opacity: 0;
  cursor: pointer;
}
.attach:focus-within {
  outline: 2px solid var(--plum);
}
</style>
