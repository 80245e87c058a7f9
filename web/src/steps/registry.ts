import { maskText } from '../masks/parts'
import { number, pixelSize, signed } from '../parts/format'
import type { Step } from '../takes/queries'
import ColourControl from './ColourControl.vue'
import CurvesControl from './CurvesControl.vue'
import DeblurControl from './DeblurControl.vue'
import DenoiseControl from './DenoiseControl.vue'
import DetailControl from './DetailControl.vue'
import DevelopControl from './DevelopControl.vue'
import EnlargeControl from './EnlargeControl.vue'
import ExposureControl from './ExposureControl.vue'
import FacesControl from './FacesControl.vue'
import FrameControl from './FrameControl.vue'
import GiveBackControl from './GiveBackControl.vue'
import GrainControl from './GrainControl.vue'
import LensControl from './LensControl.vue'
import PatchControl from './PatchControl.vue'
import RepairControl from './RepairControl.vue'
import SeamlessControl from './SeamlessControl.vue'
import SharpenControl from './SharpenControl.vue'
import TableControl from './TableControl.vue'
import ToneControl from './ToneControl.vue'
import { blurText } from './blur'
import { begunFace, facesText } from './faces'
import { kindOf, type FileFacts, type Shown, type StepKind } from './kinds'
import { patchesText } from './patches'
import { straight, type Point } from './monotone'
import { targetText } from './target'

/** Numbers that are 0 at rest, those that are not, in words. */
function shifts(values: Record<string, number>): string {
  return Object.entries(values)
    .filter(([, value]) => value)
    .map(([name, value]) => `${name} ${signed(value, 0)}`)
    .join(' · ')
}

/** Every kind of step there is: a new one is a control and an entry here. */
export const shownKinds: { [Kind in StepKind]: Shown<Kind> } = {
  develop: {
    control: DevelopControl,
    summary: (step) => {
      const white = { 'as shot': 'as shot', grey: 'by a grey', kelvin: `${number(step.kelvin, 0)} K` }[step.white]
      return [`white ${white}`, step.ev && `${signed(step.ev, 2)} EV`, !step.lens && 'lens as it is']
        .filter(Boolean)
        .join(' · ')
    },
  },
  frame: {
    control: FrameControl,
    key: 'f',
    summary: (step, take) => {
      const parts = [take.plan ? `${pixelSize(take.plan.framed)} px` : 'whole picture']
      if (step.turns) parts.push(`${step.turns * 90}°`)
      if (step.vertical || step.horizontal || step.corners) parts.push('perspective undone')
      if (step.distortion) parts.push('bowed lines straightened')
      if (step.angle) parts.push(`straightened ${number(step.angle, 1)}°`)
      if (step.flip) parts.push('flipped')
      return parts.join(' · ')
    },
  },
  exposure: {
    control: ExposureControl,
    summary: (step) => `${signed(step.ev, 2)} EV${step.black ? ` · black ${number(step.black, 3)}` : ''}`,
    // What lies beyond black and white in a floating-point file is brought in.
    suited: (step, facts) => ({
      ...step,
      ev: Math.max(-10, facts.white_ev ?? 0),
      black: Math.max(-1, Math.min(0, facts.lowest ?? 0)),
    }),
  },
  patch: { control: PatchControl, summary: (step) => patchesText(step.patches ?? []) },
  seamless: {
    control: SeamlessControl,
    summary: (step) => {
      const over = [step.across && `${number(step.across, 1)} % across`, step.down && `${number(step.down, 1)} % down`]
      return [...over, step.even && `light ${number(step.even, 0)} % even`].filter(Boolean).join(' · ') || 'nothing set'
    },
  },
  lens: {
    control: LensControl,
    summary: (step) => {
      const fringes = [step.red && `red ${signed(step.red, 1)} px`, step.blue && `blue ${signed(step.blue, 1)} px`]
      const told = [step.vignetting && `corners ${signed(step.vignetting, 0)}`, ...fringes]
      return told.filter(Boolean).join(' · ') || 'nothing set'
    },
  },
  denoise: {
    control: DenoiseControl,
    key: 'i',
    summary: (step) => {
      const detail = step.detail ? ` · detail ${number(step.detail, 0)}` : ''
      return `luminance ${number(step.luminance, 0)} · colour ${number(step.colour, 0)}${detail}`
    },
  },
  repair: {
    control: RepairControl,
    key: 'p',
    summary: (step) => {
      const told = [step.quality && `quality ${step.quality}`, step.banding && `bands ${number(step.banding, 0)}`]
      return [`strength ${number(step.strength, 0)}`, ...told].filter(Boolean).join(' · ')
    },
    suited: (step, facts) => ({ ...step, quality: facts.quality ?? null }),
  },
  deblur: {
    control: DeblurControl,
    key: 'b',
    summary: (step) =>
      `${blurText(step.blur)}${step.strength === 100 ? '' : ` · strength ${number(step.strength, 0)}`}`,
  },
  enlarge: {
    control: EnlargeControl,
    key: 'e',
    summary: (step) => {
      const { blend } = step
      const engines = blend?.weight ? `${step.engine} + ${number(blend.weight, 0)} % ${blend.engine}` : step.engine
      const told = [engines, targetText(step.target), step.hold ? 'held' : '', step.repeat ? 'repeating' : '']
      return told.filter(Boolean).join(' · ')
    },
  },
  faces: {
    control: FacesControl,
    summary: facesText,
    suited: (step, { faces }) => ({
      ...step,
      // Those that are not sure are there to be switched on.
      faces: (faces ?? []).map(({ eyes, mouth, sure }) => ({ ...begunFace, eyes, mouth, on: sure })),
    }),
  },
  'give-back': {
    control: GiveBackControl,
    key: 'z',
    summary: (step) => `${step.of} · ${maskText(step.mask) || 'nowhere yet'}`,
  },
  detail: {
    control: DetailControl,
    summary: (step) =>
      shifts({ fine: step.small, middle: step.medium, broad: step.large, haze: step.haze }) || 'nothing set',
  },
  tone: {
    control: ToneControl,
    key: 'shift+t',
    summary: (step) => {
      const { contrast, shadows, highlights, black, white } = step
      const light = step.ev ? `${signed(step.ev, 2)} EV` : ''
      return (
        [light, shifts({ contrast, shadows, highlights, black, white })].filter(Boolean).join(' · ') || 'nothing set'
      )
    },
  },
  curves: {
    control: CurvesControl,
    key: 'shift+c',
    summary: (step) => {
      const bent = (['all', 'red', 'green', 'blue', 'luma'] as const).filter(
        (name) => !straight((step[name] ?? []) as Point[]),
      )
      const levels = step.black || step.white !== 1 || step.middle !== 1 || step.darkest || step.lightest !== 1
      return [levels && 'levels', ...bent].filter(Boolean).join(' · ') || 'straight'
    },
  },
  colour: {
    control: ColourControl,
    key: 'shift+g',
    summary: (step) => {
      const { temperature, tint, saturation, vibrance } = step
      const hues = step.hues?.length ? `${step.hues.length} ${step.hues.length === 1 ? 'hue' : 'hues'}` : ''
      const tints = step.shadows?.amount || step.middle?.amount || step.lights?.amount ? 'tinted' : ''
      return (
        [shifts({ temperature, tint, saturation, vibrance }), hues, tints].filter(Boolean).join(' · ') || 'nothing set'
      )
    },
  },
  table: {
    control: TableControl,
    summary: (step) => {
      if (!step.table) return 'none chosen'
      return `${step.name || 'a table'}${step.strength === 100 ? '' : ` · strength ${number(step.strength, 0)}`}`
    },
  },
  sharpen: {
    control: SharpenControl,
    key: 's',
    summary: (step) => `amount ${number(step.amount, 0)} % · radius ${number(step.radius, 1)} px`,
  },
  grain: {
    control: GrainControl,
    key: 'u',
    summary: (step) => `σ ${number(step.amount, 1)} · ${number(step.size, 1)} px`,
  },
}

/** What the front end shows of a step's kind. */
export function shownKind(step: Step): Shown<never> {
  return shownKinds[step.kind] as unknown as Shown<never>
}

/** A step of a kind with its usual settings; what a picture's own file tells is put in. */
export function newStep(kind: StepKind, facts: FileFacts = {}): Step {
  const { suited } = shownKinds[kind] as unknown as Shown<StepKind>
  const begun = structuredClone(kindOf(kind).begun)
  return suited ? suited(begun, facts) : begun
}
