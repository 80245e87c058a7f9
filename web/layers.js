/**
 * Which way imports go in `src`: each folder may import those that stand above it here, and none of those beside or below.
 * `docs/architecture.md` says what each is for.
 */
const layers = [
  ['generated'],
  ['api'],
  ['parts'],
  ['people', 'settings', 'engines', 'jobs'],
  ['takes'],
  ['viewer'],
  ['masks'],
  ['steps'],
  ['readings'],
  ['deliveries'],
  ['pictures'],
  ['cards', 'proofs', 'prints', 'showings'],
  ['batches', 'folders'],
  ['board'],
  ['shell'],
  ['bench', 'pages', 'shown'],
]

/** An ESLint rule set for each folder. */
export const layerRules = layers.flatMap((folders, place) =>
  folders.map((folder) => {
    const barred = layers
      .slice(place)
      .flat()
      .filter((other) => other !== folder)
    return {
      files: [`src/${folder}/**/*.{ts,vue}`],
      rules: {
        'no-restricted-imports': [
          'error',
          {
            patterns: barred.map((other) => ({
              group: [`../${other}/*`, `../../${other}/*`],
              message: `${folder} stands above ${other} in layers.js: imports go down only.`,
            })),
          },
        ],
      },
    }
  }),
)
