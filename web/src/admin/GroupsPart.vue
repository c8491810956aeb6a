<script setup lang="ts">
// Groups: what is granted to one is granted to all who are in it.
import { computed, ref, shallowRef } from 'vue'
import { DELETE, POST, PUT, body } from '@/api/client'
import type { Administration } from '@/api/types'
import GrantSlip from './GrantSlip.vue'
import { useAdministration } from './useAdministration'

type Group = Administration['groups'][number]

const { all, change } = useAdministration()
const name = ref('')
const granting = shallowRef<Group | null>(null)
const people = computed(() => (all.value?.people ?? []).map((each) => ({ title: each.name, value: each.id })))

function grantsOf(group: Group) {
  return (all.value?.grants ?? [])
    .filter((each) => each.group === group.id)
    .map((each) => {
      const model = all.value?.models.find((one) => one.name === each.model)
      const role = model?.roles.find((one) => one.name === each.role)
      return {
        ...each,
        words: `${model?.caption ?? each.model}, ${each.role ? `as far as ${role?.caption ?? each.role} may` : 'every record'}`,
      }
    })
}

function namesOf(group: Group): string {
  const names = (all.value?.people ?? []).filter((each) => group.people.includes(each.id)).map((each) => each.name)
  return names.join(', ') || 'nobody yet'
}

async function add(): Promise<void> {
  if (await change(() => body(POST('/api/administration/groups', { body: { name: name.value } })))) name.value = ''
}

function setPeople(group: Group, ids: readonly string[]): void {
  void change(() =>
    body(
      PUT('/api/administration/groups/{id}/people', { params: { path: { id: group.id } }, body: { people: [...ids] } }),
    ),
  )
}

function fill(group: Group, claim: string | null): void {
  void change(() =>
    body(
      PUT('/api/administration/groups/{id}/claim', {
        params: { path: { id: group.id } },
        body: { claim: claim?.trim() || null },
      }),
    ),
  )
}

function remove(group: Group): void {
  void change(() => body(DELETE('/api/administration/groups/{id}', { params: { path: { id: group.id } } })))
}

function take(group: Group, model: string, role: string): void {
  void change(() => body(DELETE('/api/administration/grants', { body: { model, group: group.id, role } })))
}
</script>

<template>
  <h1>Groups</h1>
  <p class="lead">What is granted to a group is granted to everybody who is in it.</p>
  <table v-if="all?.groups.length" aria-label="Groups">
    <thead>
      <tr>
        <th scope="col">Name</th>
        <th scope="col">People</th>
        <th scope="col">Sees</th>
        <th scope="col"><span class="unseen">What can be done</span></th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="group in all.groups" :key="group.id">
        <td>
          <strong>{{ group.name }}</strong>
        </td>
        <td class="people">
          <p v-if="group.claim" class="filled">{{ namesOf(group) }}</p>
          <v-select
            v-else
            :model-value="group.people"
            :items="people"
            multiple
            :aria-label="`People of ${group.name}`"
            @update:model-value="setPeople(group, $event)"
          />
          <v-combobox
            v-if="all.provider"
            class="claim"
            :model-value="group.claim"
            :items="[...all.claims]"
            :label="`Filled by a group of ${all.provider}`"
            clearable
            hide-details
            @update:model-value="fill(group, $event)"
          />
        </td>
        <td>
          <div v-for="grant in grantsOf(group)" :key="`${grant.model}/${grant.role}`">
            {{ grant.words }}
            <button type="button" class="plain-button act" @click="take(group, grant.model, grant.role)">
              take back
            </button>
          </div>
          <button
            type="button"
            class="plain-button act"
            :aria-label="`Grant a model to ${group.name}`"
            @click="granting = group"
          >
            grant a model…
          </button>
        </td>
        <td><button type="button" class="plain-button act" @click="remove(group)">remove</button></td>
      </tr>
    </tbody>
  </table>
  <p v-else-if="all" class="soft">There is no group yet.</p>
  <form v-if="all" class="line" @submit.prevent="add">
    <v-text-field v-model="name" label="Name of a group" maxlength="200" />
    <v-btn type="submit" variant="flat" color="primary" height="32" :disabled="!name.trim()">Add</v-btn>
  </form>
  <GrantSlip
    v-if="granting && all"
    :models="all.models"
    :to="granting.name"
    :given="{ group: granting.id }"
    :change="change"
    @close="granting = null"
  />
</template>

<style scoped src="./part.css" />
<style scoped>
.people {
  width: 300px;
}

.filled {
  margin: 0 0 14px;
}

.claim {
  margin-top: 6px;
}

td > div > .act {
  margin-left: 6px;
}
</style>
