<script setup lang="ts">
import type { TimelineView } from '@axion/contract'
import { scaleUtc } from 'd3-scale'
import { computed } from 'vue'
import { useFormat } from '../figures/format.ts'
import { useMonth } from '../shell/month.ts'
import RefusedNote from '../shell/RefusedNote.vue'
import { useView } from '../shell/useView.ts'

/** A rate through time: a lane for the baseline and each system, a bar for each version; what differs from the baseline breaks off. The same as a table for who cannot see it. */
const props = defineProps<{ rate: string }>()
const { view, refused } = useView<TimelineView>(
  () => `/align/rates/${encodeURIComponent(props.rate)}/timeline`,
)
const { month } = useMonth()
const format = useFormat()
const spans = computed(() => view.value?.spans ?? [])
const names = computed(() => spans.value[0]?.systems.map((s) => s.system) ?? [])

const DAY = 86_400_000
const millis = (day: string): number => Date.parse(`${day}T00:00:00Z`)
/** From the first version's day to some while after the last change and the month that is worked in. */
const scale = computed(() => {
  const days = [...spans.value.map((span) => millis(span.from)), millis(`${month.value}-28`)]
  const [first, last] = [Math.min(...days), Math.max(...days)]
  return scaleUtc()
    .domain([first, last + Math.max((last - first) / 6, 90 * DAY)])
    .range([0, 100])
})
const ticks = computed(() =>
  scale.value
    .ticks(5)
    .map((at) => ({ left: scale.value(at), label: format.value.month(at.toISOString().slice(0, 7)) }))
    .filter(({ left }) => left < 89),
)
/** Where the month lies that is worked in. */
const here = computed(() => {
  const [first, last] = [
    scale.value(millis(`${month.value}-01`)),
    scale.value(millis(`${month.value}-28`) + 3 * DAY),
  ]
  return { left: `${first}%`, width: `${last - first}%` }
})

interface Bar {
  readonly left: number
  readonly width: number
  readonly percent: string
  readonly differs: boolean
  readonly flat: boolean
  readonly ours: string
  readonly from: string
  readonly to: string | null
}
type Of = (span: TimelineView['spans'][number]) => Pick<Bar, 'percent' | 'differs' | 'flat'>
/** The spans of one lane, those alike in one bar. */
function barsOf(of: Of): Bar[] {
  return spans.value.reduce<Bar[]>((bars, span) => {
    const [own, before] = [of(span), bars.at(-1)]
    const end = span.to === null ? 100 : scale.value(millis(span.to) + DAY)
    const isSame =
      before !== undefined &&
      before.percent === own.percent &&
      before.differs === own.differs &&
      (!own.differs || before.ours === span.ours)
    if (isSame) return [...bars.slice(0, -1), { ...before, width: end - before.left, to: span.to }]
    return [
      ...bars,
      {
        ...own,
        ours: span.ours ?? 'none',
        left: scale.value(millis(span.from)),
        width: end - scale.value(millis(span.from)),
        from: span.from,
        to: span.to,
      },
    ]
  }, [])
}
const lanes = computed(() => [
  {
    name: 'Baseline',
    bars: barsOf((span) => ({ percent: span.ours ?? 'none', differs: false, flat: false })),
  },
  ...names.value.map((name, at) => ({
    name,
    bars: barsOf((span) => ({
      percent: span.systems[at]?.percent ?? 'none',
      differs: span.systems[at]?.agrees !== true,
      flat: span.systems[at]?.flat === true,
    })),
  })),
])
const says = (bar: Bar): string =>
  `${bar.percent}${bar.flat ? ' by hand' : bar.differs && bar.percent !== bar.ours ? `, not ${bar.ours}` : bar.differs ? ', in other parts' : ''}`
const dates = ({ from, to }: { readonly from: string; readonly to: string | null }): string =>
  `from ${format.value.longDay(from)}${to === null ? ' on' : ` to ${format.value.longDay(to)}`}`
</script>

<template>
  <figure v-if="view && spans.length > 0" class="timeline" :aria-label="`${view.name} through time`">
    <div class="axis" aria-hidden="true">
      <span class="who">Through time, %</span>
      <div class="track">
        <span v-for="tick in ticks" :key="tick.label" class="tick" :style="{ left: `${tick.left}%` }">{{
          tick.label
        }}</span><span class="here" :style="here" :title="format.month(month)" />
      </div>
    </div>
    <div v-for="(lane, place) in lanes" :key="`${place} ${lane.name}`" class="lane" aria-hidden="true">
      <span class="who" :class="{ strong: place === 0 }">{{ lane.name }}</span>
      <div class="track">
        <span
          v-for="bar in lane.bars"
          :key="bar.from"
          class="bar"
          :class="{ differs: bar.differs, ours: place === 0 }"
          :style="{ left: `${bar.left}%`, width: `calc(${bar.width}% - 2px)` }"
          :title="`${says(bar)}, ${dates(bar)}`"
          >{{ says(bar) }}</span
        >
      </div>
    </div>
    <table class="visually-hidden">
      <caption>
        {{
          view.name
        }}
        through time, percent
      </caption>
      <tbody>
        <tr v-for="(lane, place) in lanes" :key="`${place} ${lane.name}`">
          <th scope="row">{{ lane.name }}</th>
          <td v-for="bar in lane.bars" :key="bar.from">{{ says(bar) }}, {{ dates(bar) }}</td>
        </tr>
      </tbody>
    </table>
  </figure>
  <RefusedNote v-else :refused="refused" />
</template>

<style scoped>
.timeline {
  grid-column: 1 / -1;
  margin: 2px 0 0;
  max-width: 1240px;
  position: relative;
  font-size: 13.5px;
}
.axis,
.lane {
  display: grid;
  grid-template-columns: 130px minmax(0, 1fr);
  gap: 10px;
  align-items: center;
}
.who {
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
.axis {
  color: var(--soft);
  border-bottom: 1px solid var(--hair);
}
.track {
  position: relative;
  height: 24px;
}
.axis .track {
  height: 20px;
}
.tick {
  position: absolute;
  white-space: nowrap;
  padding-left: 5px;
  border-left: 1px solid var(--hair);
}
.bar {
  position: absolute;
  top: 3px;
  height: 18px;
  line-height: 17px;
  padding: 0 6px;
  border-top: 2px solid var(--slate);
  background: var(--slate-wash);
  overflow: hidden;
  white-space: nowrap;
  text-overflow: ellipsis;
}
.bar.ours {
  font-weight: 700;
}
.bar.differs {
  border-top: 2px dashed var(--rust);
  background: var(--rust-wash);
  color: var(--rust);
  font-weight: 600;
}
.here {
  position: absolute;
  bottom: -2px;
  height: 4px;
  background: var(--plum);
}
</style>
