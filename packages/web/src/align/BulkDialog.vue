<script setup lang="ts">
import type { BulkInput, BulkPreview } from '@axion/contract'
import { ref, watch } from 'vue'
import { count } from '../figures/format.ts'
import { asRefused, call, type Refused } from '../shell/api.ts'
import { useMonth } from '../shell/month.ts'
import { useRuns } from '../shell/runs.ts'
import { BULK_WORDS, withSpaces } from './words.ts'

/** Before anything is done to many rows: what would be done to each, what would not be done, and why. */
const asking = defineModel<BulkInput | null>({ required: true })
const emit = defineEmits<{ begun: [] }>()
const { api } = useMonth()
const runs = useRuns()
const preview = ref<BulkPreview | null>(null)
const refused = ref<Refused | null>(null)

watch(asking, async (request) => {
  preview.value = null
  refused.value = null
  if (!request) return
  try {
    preview.value = await call<BulkPreview>('POST', `${api.value}/align/bulk/preview`, request)
  } catch (error) {
    refused.value = asRefused(error)
  }
})
async function begin(): Promise<void> {
  const [request, revision] = [asking.value, preview.value?.revision]
  if (!request || revision === undefined) return
  asking.value = null
  if (await runs.start('/align/bulk', { request, revision })) emit('begun')
}
</script>

<template>
  <v-dialog
    :model-value="asking !== null"
    max-width="860"
    aria-label="Do to many rows"
    @update:model-value="asking = null"
  >
    <div class="dialog" data-bulk>
      <template v-if="preview && asking">
        <h2>{{ BULK_WORDS[asking.action].title }}</h2>
        <p v-if="preview.total === 0">Of what is selected, nothing can be done.</p>
        <div v-else class="list">
          <table class="sheet">
            <thead>
              <tr>
                <th scope="col">Row</th>
                <th scope="col">System</th>
                <th scope="col">What changes</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="(each, at) in preview.does" :key="at">
                <td class="strong">{{ each.row }}</td>
                <td class="soft">{{ each.system || 'the baseline' }}</td>
                <td>
                  <span v-for="change in each.changes" :key="change.field" class="change"
                    >{{ change.field }}:
                    <template v-if="change.from"
                      ><s>{{ withSpaces(change.from) }}</s> → </template
                    ><b>{{ withSpaces(change.to) }}</b></span
                  >
                </td>
              </tr>
            </tbody>
          </table>
          <p v-if="preview.total > preview.does.length" class="soft">
            and {{ preview.total - preview.does.length }} more
          </p>
        </div>
        <details v-if="preview.skipped > 0" :open="preview.total === 0">
          <summary>{{ count(preview.skipped, 'is', 'are') }} left out</summary>
          <ul>
            <li v-for="(skip, at) in preview.skips" :key="at">
              <b>{{ skip.row }}</b><template v-if="skip.system">, {{ skip.system }}</template
              >: {{ skip.why }}
            </li>
          </ul>
        </details>
        <p class="after">{{ BULK_WORDS[asking.action].after }}</p>
        <div class="actions">
          <button v-if="preview.total > 0" type="button" class="do first" autofocus data-begin @click="begin">
            {{ BULK_WORDS[asking.action].act(preview.total) }}
          </button>
          <button type="button" class="do" @click="asking = null">
            {{ preview.total > 0 ? 'Leave them as they are' : 'Close' }}
          </button>
        </div>
      </template>
      <template v-else-if="refused">
        <h2>It cannot be done</h2>
        <p>{{ refused.says }} {{ refused.mend }}</p>
        <div class="actions"><button type="button" class="do" @click="asking = null">Close</button></div>
      </template>
      <p v-else class="soft">Working out what would be done</p>
    </div>
  </v-dialog>
</template>

<style scoped>
.list {
  max-height: 46vh;
  overflow-y: auto;
  margin: 8px 0;
}
.sheet td {
  white-space: normal;
  max-width: none;
  height: auto;
  vertical-align: top;
  padding: 4px 8px;
}
.change {
  display: block;
}
.change s {
  color: var(--soft);
}
details {
  margin: 8px 0;
  font-size: 14.5px;
}
summary {
  cursor: pointer;
}
ul {
  margin: 4px 0 0 18px;
  max-height: 24vh;
  overflow-y: auto;
}
.after {
  font-size: 14.5px;
}
</style>
