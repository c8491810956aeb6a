import type { Analysis, Catalogue, CatalogueMeasure, Shown, ShownJoint, ShownList, ShownMade } from '@/api/types'

type Ways = NonNullable<Analysis['ways_down']>

export interface Found {
  folders: Catalogue['folders']
  dimensions: Catalogue['dimensions']
  filters: Catalogue['filters']
  ways: Ways
  made: CatalogueMeasure[]
  /** Those that were made here, those that were taken in from the model, and those that can be. */
  joints: ShownJoint[]
  takenJoints: ShownJoint[]
  modelJoints: Catalogue['joints']
  lists: ShownList[]
  isEmpty: boolean
}

function holds(wanted: string, ...texts: string[]): boolean {
  return texts.some((text) => text.toLocaleLowerCase().includes(wanted))
}

/** The entries of the catalogue and the ways down whose caption, description, synonyms or levels hold the words; all of them without words. */
export function searchCatalogue(
  catalogue: Catalogue | null,
  ways: Ways,
  own: readonly ShownMade[],
  joined: readonly ShownJoint[],
  listed: readonly ShownList[],
  words: string,
): Found {
  if (!catalogue)
    return {
      folders: [],
      dimensions: [],
      filters: [],
      ways: [],
      made: [],
      joints: [],
      takenJoints: [],
      modelJoints: [],
      lists: [],
      isEmpty: false,
    }
  const wanted = words.trim().toLocaleLowerCase()
  const folders = catalogue.folders
    .map((folder) => ({
      ...folder,
      measures: folder.measures.filter((each) => holds(wanted, each.caption, each.description, ...each.synonyms)),
    }))
    .filter((folder) => folder.measures.length)
  const dimensions = catalogue.dimensions.filter((each) =>
    holds(
      wanted,
      each.caption,
      each.description,
      ...each.synonyms,
      ...each.hierarchies.flatMap((hierarchy) => [
        hierarchy.caption,
        ...hierarchy.levels.map((level) => level.caption),
      ]),
    ),
  )
  const filters = catalogue.filters.filter((each) => holds(wanted, each.caption, each.description))
  const found = ways.filter((each) => holds(wanted, each.caption))
  const made = own
    .filter((each) => holds(wanted, each.made.caption, each.made.description ?? '', each.aloud))
    .map((each) => ({
      name: each.made.name ?? '',
      caption: each.made.caption,
      unit: each.unit,
      description: [each.made.description, each.aloud].filter(Boolean).join(' · '),
      synonyms: [],
    }))
  const allJoints = joined.filter((each) => holds(wanted, each.joint.caption, ...each.joins))
  const joints = allJoints.filter((each) => !each.joint.of_model)
  const takenJoints = allJoints.filter((each) => each.joint.of_model)
  const isIn = new Set(joined.filter((each) => each.joint.of_model).map((each) => each.joint.name))
  const modelJoints = catalogue.joints.filter((each) => !isIn.has(each.name) && holds(wanted, each.caption, each.says))
  const lists = listed.filter((each) => holds(wanted, each.caption, each.description, each.says))
  return {
    folders,
    dimensions,
    filters,
    ways: found,
    made,
    joints,
    takenJoints,
    modelJoints,
    lists,
    isEmpty: ![folders, dimensions, filters, found, made, allJoints, modelJoints, lists].some((each) => each.length),
  }
}

/** Of what was found, what is called just so, or begins so, or else holds the words, as "measure/boardings"; the first of those that are alike. */
export function nearestOf(
  found: Pick<Found, 'made' | 'folders' | 'dimensions' | 'filters'>,
  words: string,
): string | null {
  const wanted = words.trim().toLocaleLowerCase()
  const kinds = {
    measure: [...found.made, ...found.folders.flatMap((each) => each.measures)],
    dimension: found.dimensions,
    filter: found.filters,
  }
  const all = Object.entries(kinds).flatMap(([kind, things]) =>
    things.map((each) => ({ key: `${kind}/${each.name}`, caption: each.caption.toLocaleLowerCase() })),
  )
  const best =
    all.find((each) => each.caption === wanted) ??
    all.find((each) => each.caption.startsWith(wanted)) ??
    all.find((each) => each.caption.includes(wanted)) ??
    all[0]
  return best?.key ?? null
}

/** The catalogue with the financial layouts that were made here, each beside the hierarchies of its dimension. */
export function withLayouts(catalogue: Catalogue | null, layouts: Shown['layouts']): Catalogue | null {
  if (!catalogue || !layouts.length) return catalogue
  const dimensions = catalogue.dimensions.map((each) => {
    const own = layouts
      .filter((one) => one.dimension === each.name)
      .map(({ name, caption }) => ({ name, caption, levels: [{ name, caption }] }))
    return own.length ? { ...each, hierarchies: [...each.hierarchies, ...own] } : each
  })
  return { ...catalogue, dimensions }
}
