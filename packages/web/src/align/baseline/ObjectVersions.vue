<script setup lang="ts">
import type { AgreedKind, AgreedObject } from '@axion/contract'
import { computed } from 'vue'
import { count, useFormat } from '../../figures/format.ts'
import { useMonth } from '../../shell/month.ts'
import RefusedNote from '../../shell/RefusedNote.vue'
import { useView } from '../../shell/useView.ts'
import DayCells from './DayCells.vue'
import type { Doing } from './draft.ts'
import { cellText, filledIn, isFigure, type Field } from './words.ts'

/** An object through its versions: what stands in the order of its days, then what was believed before and until when. */
const props = defineProps<{ kind: AgreedKind; id: string; fields: readonly Field[]; dated: boolean }>()
const emit = defineEmits<{ does: [doing: Doing] }>()
const { entity } = useMonth()
const format = useFormat()
const { view, refused } = useView<AgreedObject>(
  () => `/baseline/${props.kind}/object?id=${encodeURIComponent(props.id)}`,
)
const may = computed(() => entity.value.role !== 'viewer')
const shown = computed(() => filledIn(props.fields, view.value?.versions ?? []))
const standing = computed(() => (view.value?.versions ?? []).filter(({ until }) => until === null).length)
function does(act: Doing['act'], version: AgreedObject['versions'][number]): void {
  emit('does', { act, id: props.id, version })
}
</script>

<template>
  <section class="versions" :aria-label="`Versions of ${id}`" data-versions>
    <RefusedNote :refused="refused" />
    <template v-if="view">
      <h3>
        {{ id }}
        <small class="soft"
          >{{ standing === 0 ? 'taken off the baseline' : count(standing, 'version')
          }}<template v-if="view.versions.length > standing"
            >, {{ view.versions.length - standing }} that stood before</template
          ></small
        >
      </h3>
      <div class="scroll" tabindex="0" role="region" aria-label="Versions">
        <table class="sheet">
          <thead>
            <tr>
              <template v-if="dated"
                ><th scope="col">From</th>
                <th scope="col">Until</th></template
              >
              <th v-for="field in shown" :key="field.path" scope="col" :class="{ n: isFigure(field) }">
                {{ field.title }}
              </th>
              <th scope="col">Recorded</th>
              <th scope="col" aria-label="What can be done" />
            </tr>
          </thead>
          <tbody>
            <tr
              v-for="(version, at) in view.versions"
              :key="at"
              :class="{ past: version.until !== null }"
              :data-version="version.from ?? ''"
              :data-stands="version.until === null"
            >
              <DayCells v-if="dated" :version="version" />
              <td
                v-for="field in shown"
                :key="field.path"
                :class="{ n: isFigure(field) }"
                :title="version.cells[field.path]"
              >
                {{ cellText(field, version.cells[field.path] ?? '') }}
              </td>
              <td class="soft">
                {{ format.instant(version.recorded)
                }}{{ version.until === null ? '' : `, until ${format.instant(version.until)}` }}
              </td>
              <td class="acts">
                <template v-if="may && version.until === null">
                  <button class="plain" type="button" data-act="change" @click="does('change', version)">
                    change
                  </button>
                  <button
                    v-if="dated"
                    class="plain"
                    type="button"
                    data-act="end"
                    @click="does('end', version)"
                  >
                    end
                  </button>
                  <button class="plain" type="button" data-act="remove" @click="does('remove', version)">
                    take off
                  </button>
                </template>
              </td>
            </tr>
          </tbody>
        </table>
      </div>
    </template>
  </section>
</template>

<style scoped>
.versions {
  margin-top: 12px;
  max-height: 40%;
  display: flex;
  flex-direction: column;
  min-height: 0;
}
h3 {
  font-weight: 600;
  margin-bottom: 4px;
}
h3 small {
  font-weight: 400;
  font-size: 13.5px;
  margin-left: 8px;
}
.past td {
  color: var(--soft);
  text-decoration: line-through;
}
.past td.soft,
.past td.acts {
  text-decoration: none;
}
.acts {
  text-align: right;
}
.acts .plain {
  font-size: 13.5px;
  margin-left: 10px;
}
</style>
