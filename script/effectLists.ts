import { existsSync, readdirSync, writeFileSync } from 'node:fs';

interface List {
  readonly file: string;
  /** Part of an effect's folder that is listed. */
  readonly part: string;
  readonly type: string;
  readonly typeFrom: string;
  readonly name: string;
  /** Name of the part's export. */
  readonly exported: (id: string) => string;
}

const capital = (id: string) => id[0]!.toUpperCase() + id.slice(1);

const LISTS: readonly List[] = [
  {
    file: 'core/effects/specs.generated.ts',
    part: 'spec',
    type: 'EffectSpec',
    typeFrom: './spec',
    name: 'SPECS',
    exported: (id) => `${id}Spec`,
  },
  {
    file: 'core/effects/kernels.generated.ts',
    part: 'kernel',
    type: 'KernelFactory',
    typeFrom: './kernel',
    name: 'KERNELS',
    exported: (id) => `create${capital(id)}`,
  },
  {
    file: 'core/effects/preparers.generated.ts',
    part: 'prepare',
    type: 'Preparer',
    typeFrom: './prepare',
    name: 'PREPARERS',
    exported: (id) => `prepare${capital(id)}`,
  },
  {
    file: 'features/effects/views.generated.ts',
    part: 'view',
    type: 'EffectExtras',
    typeFrom: './extras',
    name: 'VIEWS',
    exported: (id) => `${id}View`,
  },
];

/**
 * Lists specs, kernels, preparers and views from the folders that there are, so that an effect is added by its folder
 * in the core and, if it has a view of its own, its folder in the interface.
 * @param root the folder of the sources
 */
export function listEffects(root: string): void {
  for (const { file, part, type, typeFrom, name, exported } of LISTS) {
    const folder = file.slice(0, file.lastIndexOf('/'));
    const has = (id: string) => ['ts', 'tsx'].some((kind) => existsSync(`${root}/${folder}/${id}/${part}.${kind}`));
    const ids = readdirSync(`${root}/${folder}`).filter(has).sort();
    const lines = [
      '/** From the folders of effects, by script/effectLists.ts. */',
      `import type { ${type} } from '${typeFrom}';`,
      ...ids.map((id) => `import { ${exported(id)} } from './${id}/${part}';`),
      '',
      ...(part === 'spec'
        ? ['/** Every effect by its id. */', `export const ${name} = {`]
        : [`export const ${name}: Readonly<Record<string, ${type}>> = {`]),
      ...ids.map((id) => `  ${id}: ${exported(id)},`),
      part === 'spec' ? `} as const satisfies Readonly<Record<string, ${type}>>;` : '};',
      ...(part === 'spec' ? ['', `export type EffectId = keyof typeof ${name};`] : []),
      '',
    ];
    writeFileSync(`${root}/${file}`, lines.join('\n'));
  }
}
