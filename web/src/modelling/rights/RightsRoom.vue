<script setup lang="ts">
// Ready-made filters, and roles: what the people of a role may see, who they are, and the model as they would see it.
import { computed, ref, shallowRef, watch } from 'vue'
import { GET, POST, body } from '@/api/client'
import type { Condition, Holders, ModelRole, ReadyMade } from '@/api/types'
import { useProblem } from '@/shell/problem'
import ConditionList from './ConditionList.vue'
import TrialTable from '../sheets/TrialTable.vue'
import { useShaping } from '../shaping'
import { nameOf } from '../words'

const shaping = useShaping()
const problem = useProblem()
const filters = computed(() => shaping.model?.filters ?? [])
const roles = computed(() => shaping.model?.roles ?? [])
/** Lists and joint members: called otherwise, or left out, here. */
const held = computed(() => [
  ...(shaping.model?.lists ?? []).map((list) => ({
    kind: 'list',
    name: list.name,
    caption: list.caption,
    says: `lists ${shaping.told?.lists[list.name ?? ''] ?? '…'}`,
    call: (caption: string) => shaping.act({ kind: 'put_member_list', list: { ...list, caption } }),
    leave: () => shaping.act({ kind: 'leave_out_member_list', name: list.name ?? '' }),
  })),
  ...(shaping.model?.joints ?? []).map((joint) => ({
    kind: 'joint',
    name: joint.name,
    caption: joint.caption,
    says: shaping.told?.joints[joint.name] ?? '…',
    call: (caption: string) => shaping.act({ kind: 'put_joint', joint: { ...joint, caption } }),
    leave: () => shaping.act({ kind: 'leave_out_joint', name: joint.name }),
  })),
])
const holders = shallowRef<Holders>({ holders: [], others: [] })
const isGranting = ref(false)
/** Who is to be let in: by their place among those who could be; and in which role. */
const letIn = ref({ at: '', role: '' })
/** What is being made, before it has a condition. */
const making = ref<'' | 'filter' | 'role'>('')
const caption = ref('')
const seenAs = ref('')
const measure = ref('')
const dimension = ref('')
const measures = computed(() => shaping.model?.measures ?? [])
const dimensions = computed(() =>
  (shaping.model?.dimensions ?? []).filter((each) => each.hierarchies.some((way) => way.levels.length)),
)
const beside = computed(() =>
  measures.value.some((each) => each.name === measure.value) ? measure.value : (measures.value[0]?.name ?? null),
)
const by = computed(() =>
  dimensions.value.some((each) => each.name === dimension.value) ? dimension.value : (dimensions.value[0]?.name ?? ''),
)
const role = computed(() => (roles.value.some((each) => each.name === seenAs.value) ? seenAs.value : null))

watch(
  () => shaping.shaped?.model.name,
  async (name) => {
    if (!name) return
    try {
      holders.value = await body(GET('/api/modelling/{model}/holders', { params: { path: shaping.path } }))
    } catch (error) {
      problem.tell(error)
    }
  },
  { immediate: true },
)
watch(() => shaping.turn, shaping.tell, { immediate: true })

function roleCaption(name: string): string {
  return name ? `as far as ${roles.value.find((each) => each.name === name)?.caption ?? name} may` : 'every record'
}

async function change(send: () => Promise<Holders>): Promise<void> {
  try {
    holders.value = await send()
    isGranting.value = false
  } catch (error) {
    problem.tell(error)
  }
}

function grant(): Promise<void> {
  const { person, group } = holders.value.others[Number(letIn.value.at)]!
  return change(() =>
    body(
      POST('/api/modelling/{model}/holders', {
        params: { path: shaping.path },
        body: { person, group, role: letIn.value.role },
      }),
    ),
  )
}

function take({ person, group, role }: Holders['holders'][number]): Promise<void> {
  return change(() =>
    body(
      POST('/api/modelling/{model}/holders/taken', { params: { path: shaping.path }, body: { person, group, role } }),
    ),
  )
}

function putFilter(filter: ReadyMade, conditions: Condition[]): void {
  if (conditions[0]) void shaping.act({ kind: 'put_ready_made', filter: { ...filter, condition: conditions[0] } })
}

function putRole(own: ModelRole, said: Partial<ModelRole>): void {
  void shaping.act({ kind: 'put_role', role: { ...own, ...said } })
}

async function make(conditions: Condition[]): Promise<void> {
  const words = caption.value.trim()
  if (!conditions[0] || !words) return
  const isFilter = making.value === 'filter'
  const isDone = isFilter
    ? await shaping.act({
        kind: 'put_ready_made',
        filter: {
          name: nameOf(
            words,
            filters.value.map((each) => each.name),
            'filter',
          ),
          caption: words,
          description: '',
          condition: conditions[0],
        },
      })
    : await shaping.act({
        kind: 'put_role',
        role: {
          name: nameOf(
            words,
            roles.value.map((each) => each.name),
            'role',
          ),
          caption: words,
          conditions,
          elsewhere: 'nothing',
        },
      })
  if (isDone) {
    making.value = ''
    caption.value = ''
  }
}

function valueOf(event: Event): string {
  return (event.target as HTMLInputElement).value.trim()
}
</script>

<template>
  <div class="room two">
    <section class="form" aria-label="Filters and roles">
      <h2>Ready-made filters</h2>
      <p v-if="!filters.length" class="soft">
        None yet. One is a condition under a name, which colleagues put into their analyses.
      </p>
      <div v-for="each in filters" :key="each.name" class="thing">
        <div class="line">
          <input
            class="field"
            :value="each.caption"
            :aria-label="`Caption of the filter ${each.caption}`"
            @change="shaping.act({ kind: 'put_ready_made', filter: { ...each, caption: valueOf($event) } })"
          />
          <ConditionList
            :conditions="[each.condition]"
            :told="shaping.told?.filters[each.name]"
            empty=""
            is-one
            @change="(conditions) => putFilter(each, conditions)"
          />
        </div>
        <button
          type="button"
          class="plain-button not"
          :aria-label="`leave it out: ${each.caption}`"
          @click="shaping.act({ kind: 'leave_out_ready_made', name: each.name })"
        >
          leave it out
        </button>
      </div>
      <button
        v-if="making !== 'filter'"
        type="button"
        class="plain-button go start"
        @click="((making = 'filter'), (caption = ''))"
      >
        Make a filter
      </button>
      <div v-else class="thing">
        <div class="line">
          <input
            v-model="caption"
            class="field"
            placeholder="what it is called"
            aria-label="What the filter is called"
          /><ConditionList v-if="caption.trim()" :conditions="[]" empty="" is-one @change="make" /><span
            v-else
            class="soft"
            >then choose what it keeps</span
          >
        </div>
        <button type="button" class="plain-button not" @click="making = ''">leave it</button>
      </div>
      <template v-if="held.length">
        <h2 class="second">Lists and joint members</h2>
        <p class="soft">Made in an analysis, and put here so that every analysis can have them.</p>
        <div v-for="each in held" :key="`${each.kind}/${each.name}`" class="thing">
          <div class="line">
            <input
              class="field"
              :value="each.caption"
              :aria-label="`Caption of ${each.caption}`"
              @change="each.call(valueOf($event))"
            /><span>{{ each.says }}</span>
          </div>
          <button
            type="button"
            class="plain-button not"
            :aria-label="`leave it out: ${each.caption}`"
            @click="each.leave"
          >
            leave it out
          </button>
        </div>
      </template>
      <h2 class="second">Roles</h2>
      <p class="soft">
        Whoever is given the model in a role sees its records alone, everywhere: in tables, members, searches, files.
      </p>
      <div v-for="each in roles" :key="each.name" class="thing">
        <div class="line">
          <input
            class="field"
            :value="each.caption"
            :aria-label="`Caption of the role ${each.caption}`"
            @change="putRole(each, { caption: valueOf($event) })"
          />
          <div>
            <ConditionList
              :conditions="each.conditions"
              :told="shaping.told?.roles[each.name]"
              empty=""
              @change="(conditions) => putRole(each, { conditions })"
            />
            <label class="tick"
              ><input
                type="checkbox"
                :checked="each.elsewhere === 'everything'"
                @change="
                  putRole(each, { elsewhere: ($event.target as HTMLInputElement).checked ? 'everything' : 'nothing' })
                "
              /><span class="soft">and all records that these do not reach</span></label
            >
          </div>
        </div>
        <div class="row">
          <button
            type="button"
            class="plain-button go"
            :aria-pressed="role === each.name"
            @click="seenAs = role === each.name ? '' : each.name"
          >
            {{ role === each.name ? 'see all again' : 'see as its people' }}
          </button>
          <button
            type="button"
            class="plain-button not"
            :aria-label="`leave it out: the role ${each.caption}`"
            @click="shaping.act({ kind: 'leave_out_role', name: each.name })"
          >
            leave it out
          </button>
        </div>
      </div>
      <button
        v-if="making !== 'role'"
        type="button"
        class="plain-button go start"
        @click="((making = 'role'), (caption = ''))"
      >
        Make a role
      </button>
      <div v-else class="thing">
        <div class="line">
          <input
            v-model="caption"
            class="field"
            placeholder="the tram desk"
            aria-label="What the role is called"
          /><ConditionList v-if="caption.trim()" :conditions="[]" empty="" @change="make" /><span v-else class="soft"
            >then choose what its people see</span
          >
        </div>
        <button type="button" class="plain-button not" @click="making = ''">leave it</button>
      </div>
      <h2 class="second">Who may open it</h2>
      <table class="holders">
        <tbody>
          <tr v-for="each in holders.holders" :key="`${each.person}/${each.group}/${each.role}`">
            <td>{{ each.name }}<span v-if="each.group" class="soft"> (group)</span></td>
            <td class="soft">sees {{ roleCaption(each.role) }}</td>
            <td class="away">
              <button
                v-if="!each.is_reader"
                type="button"
                class="plain-button not"
                :aria-label="`no more: ${each.name}`"
                @click="take(each)"
              >
                no more
              </button>
            </td>
          </tr>
        </tbody>
      </table>
      <button v-if="!isGranting" type="button" class="plain-button go start" @click="isGranting = true">
        Let somebody open it
      </button>
      <form v-else class="letting" @submit.prevent="grant">
        <select v-model="letIn.at" class="field" aria-label="Who may open it">
          <option value="">who…</option>
          <option v-for="(each, at) in holders.others" :key="at" :value="String(at)">
            {{ each.name }}{{ each.group ? ' (group)' : '' }}
          </option>
        </select>
        <select v-model="letIn.role" class="field" aria-label="What they see">
          <option value="">sees every record</option>
          <option v-for="each in roles" :key="each.name" :value="each.name">sees {{ roleCaption(each.name) }}</option>
        </select>
        <v-btn type="submit" variant="flat" color="primary" height="26" :disabled="!letIn.at">Let them</v-btn>
        <button type="button" class="plain-button not" @click="isGranting = false">leave it</button>
      </form>
    </section>
    <aside class="side" aria-label="As it would be seen">
      <h2>
        {{ role ? `As ${roles.find((each) => each.name === role)?.caption} would see it` : 'As it is seen in whole' }}
      </h2>
      <label class="beside"
        ><span class="soft">see as</span
        ><select class="field" :value="role ?? ''" @change="seenAs = valueOf($event)">
          <option value="">whoever sees all</option>
          <option v-for="each in roles" :key="each.name" :value="each.name">{{ each.caption }}</option>
        </select></label
      >
      <label class="beside"
        ><span class="soft">the measure</span
        ><select class="field" :value="beside" @change="measure = valueOf($event)">
          <option v-for="each in measures" :key="each.name" :value="each.name">{{ each.caption }}</option>
        </select></label
      >
      <label class="beside"
        ><span class="soft">by</span
        ><select class="field" aria-label="by the dimension" :value="by" @change="dimension = valueOf($event)">
          <option v-for="each in dimensions" :key="each.name" :value="each.name">{{ each.caption }}</option>
        </select></label
      >
      <TrialTable v-if="by" :key="by" :dimension="by" :measure="beside" :role="role" />
    </aside>
  </div>
</template>

<style scoped src="../fields.css" />
<style scoped src="../room.css" />
<style scoped>
.two {
  grid-template-columns: minmax(0, 1fr) 340px;
}

.form {
  padding-left: 18px;
}

.second {
  padding-top: 14px;
}

.thing {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 14px;
  align-items: baseline;
  padding: 6px 0;
  border-bottom: 1px solid rgb(var(--v-theme-hair));
}

.line {
  grid-template-columns: 200px minmax(0, 1fr);
  align-items: baseline;
}

.start {
  align-self: start;
}

.holders {
  width: 100%;
  border-collapse: collapse;
}

.holders td {
  padding: 2px 12px 2px 0;
  border-bottom: 1px solid rgb(var(--v-theme-hair));
}

.holders .away {
  text-align: right;
}

.letting {
  display: grid;
  grid-template-columns: 220px 260px auto auto;
  gap: 10px;
  align-items: center;
  justify-content: start;
}

.beside {
  grid-template-columns: 80px minmax(0, 1fr);
  padding: 2px 0;
}
</style>
