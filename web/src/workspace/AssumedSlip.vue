<script setup lang="ts">
// What a proposed model takes to be so, each with what speaks for it; what may be meant otherwise comes first.
import { computed } from 'vue'
import type { Assumption } from '@/api/types'

const props = defineProps<{
  assumed: Assumption[]
  /** The model that its reader may change; none where they may not. */
  model: string
}>()
const emit = defineEmits<{ close: [] }>()

const parts = computed(() =>
  [
    { caption: 'May be meant otherwise', things: props.assumed.filter((each) => each.is_unsure) },
    { caption: 'Taken to be so', things: props.assumed.filter((each) => !each.is_unsure) },
  ].filter((each) => each.things.length),
)
</script>

<template>
  <v-dialog
    class="beside"
    scrim="transparent"
    aria-label="What was taken to be so"
    :model-value="true"
    width="560"
    scrollable
    @update:model-value="emit('close')"
  >
    <v-card>
      <div class="paper">
        <h2>What was taken to be so</h2>
        <div class="parts" tabindex="0">
          <section v-for="part in parts" :key="part.caption">
            <h3 class="small-caps">{{ part.caption }}</h3>
            <dl>
              <template v-for="each in part.things" :key="each.about + each.says">
                <dt>
                  <span v-if="!each.says.includes(each.about)" class="soft">{{ each.about }}: </span>{{ each.says }}
                </dt>
                <dd class="soft">
                  <template v-if="each.because">{{ each.because }}</template>
                </dd>
              </template>
            </dl>
          </section>
        </div>
        <p class="soft note">
          {{
            model
              ? 'In the model each can be confirmed, or mended where it stands.'
              : 'Whoever shapes the model can confirm or mend it.'
          }}
        </p>
        <footer>
          <v-btn v-if="model" :to="{ name: 'model', params: { name: model } }">The model…</v-btn>
          <v-btn @click="emit('close')">Close</v-btn>
        </footer>
      </div>
    </v-card>
  </v-dialog>
</template>

<style scoped src="./keeping/slip.css" />
<style scoped>
.parts {
  max-height: 52vh;
  overflow-y: auto;
}

h3 {
  margin: 8px 0 2px;
}

dl {
  margin: 0;
}

dt {
  padding-top: 6px;
}

dd {
  margin: 0;
  padding-bottom: 6px;
  font-size: 12px;
  border-bottom: 1px solid rgb(var(--v-theme-hair));
}
</style>
