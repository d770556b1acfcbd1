<script setup lang="ts">
import { shadeZones, shelfAt, shelfQ, type Act, type Shade } from '~~/core/tune'
import { showFrequency, showLevel, showNumber } from '~~/core/units'
import { useAligning } from './aligning'
import { useSite } from '~/document/site'
import { useNotices } from '~/parts/notices'
import { phrase } from '~/parts/phrase'

/** Sources picked above as zones of one column: gains and high-shelves that let the places fall as wished. */
const props = defineProps<{ zones: string[], fall: number }>()
const site = useSite()
const aligning = useAligning()
const notices = useNotices()
const rows = computed(() => aligning.table.filter(r => props.zones.includes(r.source.id)))
/** Places that every zone was measured at by one microphone, from the nearest to the farthest. */
const places = computed(() => {
  const first = rows.value[0]?.source.elements[0]?.place
  if (!first) return []
  const input = rows.value[0]!.cells.find(Boolean)?.take.info.input
  return site.positions
    .map((position, n) => ({ position, n, far: Math.hypot(position.place.x - first.x, position.place.y - first.y) }))
    .filter(({ n, position }) => position.weight > 0 && rows.value.every(r => r.cells[n]?.take.info.input === input))
    .sort((a, b) => a.far - b.far)
})
const found = shallowRef<Shade | null>(null)
watch([() => props.zones.join(), () => props.fall, () => aligning.table], () => {
  found.value = null
})
function look() {
  try {
    found.value = shadeZones({
      zones: rows.value.map(r => places.value.map(p => r.cells[p.n]!)),
      weights: places.value.map(p => p.position.weight),
      fall: props.fall,
      sampleRate: 96_000,
      gain: [-10, 3],
      shelf: [-6, 6],
    })
  }
  catch (error) { notices.fail(error) }
}
function set() {
  const acts = rows.value.flatMap((r, n) => {
    const [gain, shelf] = [found.value!.gains[n]!, found.value!.shelves[n]!]
    const filter = { kind: 'high-shelf', frequency: shelfAt, gain: shelf, q: shelfQ } as const
    return [
      ...(gain ? [{ source: r.source.id, act: { kind: 'gain', by: gain } satisfies Act }] : []),
      ...(shelf ? [{ source: r.source.id, act: { kind: 'filters', filters: [filter] } satisfies Act }] : []),
    ]
  })
  void aligning.perform(acts)
}
</script>

<template>
  <p class="soft small">
    {{
      phrase('align.zonesPickedAbovePlaces', {
        rows: rows.map(r => r.source.name).join(', '),
        places: places.map(p => p.position.name).join(', ') || phrase('align.noneThatOneMicrophone'),
      })
    }}
  </p>
  <div class="row">
    <ActionButton
      size="small"
      severity="secondary"
      :label="phrase('align.findGainsAndShelves')"
      :disabled="places.length < 2"
      @click="look"
    />
    <ActionButton
      v-if="found"
      size="small"
      :label="site.live ? phrase('common.apply') : phrase('align.applyToDraft')"
      @click="set"
    />
  </div>
  <div
    v-if="found"
    data-testid="shade"
  >
    <p>
      {{
        phrase('align.errorToTheWished', {
          before: showNumber(found.before, 1),
        })
      }} <b>{{ showNumber(found.after, 1) }} dB</b>
      {{ phrase('align.hzToKhzThirds') }}
    </p>
    <p
      v-for="(r, n) in rows"
      :key="r.source.id"
      class="num small"
    >
      {{
        phrase('align.highShelfAt', {
          name: r.source.name,
          gains: showLevel(found.gains[n]!),
          frequency: showFrequency(shelfAt),
          shelves: showLevel(found.shelves[n]!),
        })
      }}
    </p>
    <p class="num small">
      {{
        phrase('align.then', {
          places: places.map((p, n) => `${p.position.name} ${showLevel(found!.levels[n]!)}`).join(' · '),
        })
      }}
    </p>
  </div>
</template>
