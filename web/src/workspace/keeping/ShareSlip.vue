<script setup lang="ts">
// Who may do what with an analysis or a folder, why, and what was done with it; for those who manage it, to be changed.
import { mdiClose } from '@mdi/js'
import { computed, onMounted, ref, shallowRef } from 'vue'
import { GET, PUT, body } from '@/api/client'
import type { Frozen, Grant, Happening, Sharing } from '@/api/types'
import { MAY, whenSaid } from '@/library/entries'
import { useNotice } from '@/shell/notice'
import { useProblem } from '@/shell/problem'
import { useSession } from '@/shell/session'

type May = Grant['may']
interface Granted {
  key: string
  person: string | null
  group: string | null
  name: string
  may: May
}

const props = defineProps<{
  kind: 'analyses' | 'folders'
  thing: { id: string; name: string; may: May; frozen?: Frozen | null }
}>()
const emit = defineEmits<{ close: []; shared: [] }>()
const session = useSession()
const problem = useProblem()
const notice = useNotice()
const sharing = shallowRef<Sharing | null>(null)
const known = shallowRef<Omit<Granted, 'may'>[]>([])
const granted = ref<Granted[]>([])
const happenings = shallowRef<Happening[]>([])
const params = { path: { id: props.thing.id } }
const RIGHTS = (Object.keys(MAY) as May[]).map((value) => ({ title: MAY[value].replace(' it', ''), value }))
const RIGHT_WORDS =
  'Look: open it, go down, answer what it asks. Explore: with changes and copies of one’s own. Change: save over it. Manage: its name, its place, and who may do what.'
/** Frozen numbers are their author's: it takes a second thought to show them to others. */
const agrees = ref(false)
const isManaged = computed(() => props.thing.may === 'manage')
const others = computed(() =>
  known.value.filter(
    (each) => each.person !== sharing.value?.owner && !granted.value.some((one) => one.key === each.key),
  ),
)
const isAlone = computed(
  () => sharing.value !== null && known.value.every((each) => each.person === session.person?.id),
)
const title = computed(() =>
  isManaged.value ? `Share “${props.thing.name}”` : `Who may do what with “${props.thing.name}”`,
)

const keyed = (person: string | null, group: string | null): string =>
  person === null ? `group ${group}` : `person ${person}`
/** What happened, in a few words. */
const HAPPENED: Record<string, string> = {
  opened: 'opened it',
  saved: 'saved',
  froze: 'froze it as',
  commented: 'commented on it',
  shared: 'shared',
  moved: 'moved it',
  removed: 'deleted it',
  exported: 'took away',
  fed: 'read it from elsewhere:',
}

onMounted(async () => {
  try {
    const [people, groups, found] = await Promise.all([
      body(GET('/api/people')),
      body(GET('/api/groups')),
      body(
        props.kind === 'analyses'
          ? GET('/api/analyses/{id}/sharing', { params })
          : GET('/api/folders/{id}/sharing', { params }),
      ),
    ])
    known.value = [
      ...groups.map(({ id, name }) => ({ key: keyed(null, id), person: null, group: id, name })),
      ...people.map(({ id, name }) => ({ key: keyed(id, null), person: id, group: null, name })),
    ]
    granted.value = found.granted.map(({ person, group, name, may }) => ({
      key: keyed(person, group),
      person,
      group,
      name,
      may,
    }))
    sharing.value = found
    if (props.kind === 'analyses' && isManaged.value)
      happenings.value = await body(GET('/api/analyses/{id}/happenings', { params }))
  } catch (error) {
    problem.tell(error)
  }
})

function add(key: string | null): void {
  const one = known.value.find((each) => each.key === key)
  if (one) granted.value.push({ ...one, may: props.thing.frozen ? 'see' : 'explore' })
}

async function share(): Promise<void> {
  const asked = { grants: granted.value.map(({ person, group, may }) => ({ person, group, may })) }
  try {
    await body(
      props.kind === 'analyses'
        ? PUT('/api/analyses/{id}/sharing', { params, body: asked })
        : PUT('/api/folders/{id}/sharing', { params, body: asked }),
    )
    const names = granted.value.map((each) => each.name)
    notice.tell(
      names.length
        ? `“${props.thing.name}” is shared with ${new Intl.ListFormat('en-GB').format(names)}.`
        : `“${props.thing.name}” is shared with nobody.`,
    )
    emit('shared')
    emit('close')
  } catch (error) {
    problem.tell(error)
  }
}
</script>

<template>
  <v-dialog
    class="beside"
    scrim="transparent"
    aria-label="Share"
    :model-value="true"
    width="480"
    @update:model-value="emit('close')"
  >
    <v-card>
      <form class="paper" @submit.prevent="share">
        <h2>{{ title }}</h2>
        <div v-if="sharing" class="people">
          <div class="person">
            <span class="name">{{ sharing.owner_name }}</span><span class="soft">owns it</span>
          </div>
          <div v-for="(each, at) in sharing.from_above" :key="at" class="person">
            <span class="name">{{ each.name }}</span><span class="soft"
              >{{ MAY[each.may] }}, by the folder “{{ each.through }}”</span
            >
          </div>
          <div v-for="each in granted" :key="each.key" class="person">
            <span class="name">{{ each.name }} <span v-if="each.group" class="soft">a group</span></span>
            <template v-if="isManaged">
              <v-select v-model="each.may" class="may" :items="RIGHTS" :aria-label="`What ${each.name} may do`" />
              <v-btn
                :icon="mdiClose"
                size="24"
                :aria-label="`Nothing more for ${each.name}`"
                :title="`Nothing more for ${each.name}`"
                @click="granted = granted.filter((one) => one.key !== each.key)"
              />
            </template>
            <span v-else class="soft">{{ MAY[each.may] }}</span>
          </div>
        </div>
        <p v-if="isAlone" class="soft note">There is nobody else here to share it with.</p>
        <v-autocomplete
          v-else-if="isManaged && sharing"
          :key="granted.length"
          :model-value="null"
          label="Add a person or a group"
          :items="others"
          item-title="name"
          item-value="key"
          variant="outlined"
          density="compact"
          hide-details
          no-data-text="Nobody else"
          @update:model-value="add"
        />
        <p class="soft note">{{ RIGHT_WORDS }}</p>
        <template v-if="thing.frozen">
          <p class="soft note">
            It holds the numbers as {{ thing.frozen.by }} saw them: whoever may open it sees all of them, whatever they
            may see of the data themselves.
          </p>
          <label v-if="isManaged && granted.length" class="agree"
            ><input v-model="agrees" type="checkbox" /> They may see all of these numbers</label
          >
        </template>
        <p v-else class="soft note">Everyone sees the numbers with their own rights, on fresh data.</p>
        <details v-if="happenings.length" class="soft">
          <summary>What was done with it lately</summary>
          <div v-for="(each, at) in happenings" :key="at" class="happening">
            <span
              >{{ each.person_name }} {{ HAPPENED[each.kind] ?? each.kind }}
              <template v-if="['shared', 'saved', 'froze', 'exported', 'fed'].includes(each.kind)">{{
                each.about
              }}</template></span
            ><span>{{ whenSaid(each.at) }}</span>
          </div>
        </details>
        <footer>
          <v-btn @click="emit('close')">{{ isManaged ? 'Cancel' : 'Close' }}</v-btn>
          <v-btn
            v-if="isManaged && !isAlone"
            type="submit"
            variant="flat"
            color="primary"
            :disabled="!!thing.frozen && granted.length > 0 && !agrees"
            >Share</v-btn
          >
        </footer>
      </form>
    </v-card>
  </v-dialog>
</template>

<style scoped src="./slip.css" />
<style scoped>
.agree {
  display: flex;
  gap: 8px;
  align-items: center;
}

.people {
  max-height: 320px;
  overflow-y: auto;
}

.may {
  flex: none;
  width: 150px;
}

.person {
  padding: 2px 0;
}

summary {
  cursor: pointer;
}

details {
  max-height: 180px;
  overflow-y: auto;
}

.happening {
  display: flex;
  gap: 12px;
  justify-content: space-between;
}
</style>
