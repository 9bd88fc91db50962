/**
 * The sounds that the model of kinds is trained on: free Debian packages, told apart by file name.
 * Only weights are shipped, never the sounds. Packages in VALIDATION are never trained on.
 */
import type { SoundClass } from '../../src/core/signals/types.ts';

/** What a file is used as: a class, a bed that other sounds lie over, or nothing. */
export type Use = SoundClass | 'tone' | 'step' | 'voice' | 'music' | 'ambience' | null;

interface Recipe {
  /** First match of the path wins. */
  readonly uses: readonly (readonly [RegExp, Use])[];
}

/** Names that mean the same in all games. */
const GAME: Recipe['uses'] = [
  [/music|theme|soundtrack/i, 'music'],
  [/foot|steps?[-_/0-9.]|walk|run\d/i, 'step'],
  [/announcer|voice|teamshoot|player\/|button|instructor|speech|\/vo_|taunt|_ack|select|talk|laugh|scream|hurt|pain|\/die|death|cry|moan|growl|bark|grunt|attack\d*\.|merchant|shriek|hiss|_die|-die|-hit-\d|chant|ugh|ooff|memressp|cmndr/i, 'voice'],
  [/ambien|loop|wind[^u]|water|fire[0-9a-z]*\.|rain|steam|engine|machine|hum|generator|campfire|birds|drone|fan\d|crowd|cheer/i, 'ambience'],
  [/pick|spawn_|bnce|tutorial|menu/i, 'other'],
  [/no_?ammo|reload|empty|dry|swing|swish|whoosh|swoosh|miss|draw|sheath|fly|flight|idle/i, 'other'],
  [/explo|expl[-_\d]|boom|nuke|bomb|detonat|blast(?!er)|impact|hit|punch|thud|crash|collid|bump|slam|smash|break|thump|kick|bonk|ground|body|land\d|splat|crunch|hammer|club|mace|fist|slap|clank|metalhit|staff|axe|sword|shatter|bounce|stomp|ricochet|baseballbat|whip/i, 'impact'],
  [/gun|shot|shoot|[-_]fire[-_.\d]|fire\.|rifle|pistol|cannon|sniper|mortar|laser|blaster|uzi|musket|launch|turret|rocket|howitzer|shotty|electro|crylink|hagar|nex\d|grenade_fire|plasma|bazooka|missile|particle|thunderstick|snipe/i, 'shot'],
  [/pick|coin|chime|bell|menu|click|button|msg|message|beep|alarm|confirm|notify|collect|bonus|spawn|teleport|power|heal|jump|door|switch|grab|flag|ctf|drop|open|close|chest|spell|magic|potion|warp|gold|buy|level|life|tick|error|accept|select|hook|skid/i, 'other'],
];

const DRUMS: Recipe['uses'] = [
  [/ride|crash|splash|cymbal|bell|cow|clav|conga|shaker|bongo|timbale|agogo|triangle|wood|guiro|cuica|whistle|cabasa|maracas|vibra|metronome|click|tambour|tombour|stick|perc|tabla|loop|snap|roll|empty|scratch|high_q/i, null],
  [/kick|bass_?drum|\bbd_|drum_bass|drum_heavy|bassdrum/i, 'kick'],
  [/snare|\bsn_|clap|rim|elec_(filt|hi|lo|mid)?_?snare/i, 'snare'],
  [/hat|cymbal_closed|cymbal_pedal|hh/i, 'hat'],
];

export const TRAINING: Readonly<Record<string, Recipe>> = {
  'hydrogen-data': { uses: [[/Ride|Crash|Splash|Cymbal|Bell/i, 'hat'], [/Tom/i, 'kick'], ...DRUMS] },
  'fluid-soundfont-gm': { uses: [[/kick|bass ?drum|\bbd\b/i, 'kick'], [/snare|\bsn\b|rim|clap/i, 'snare'], [/hi.?hat|\bhh\b|hihat|ride|crash/i, 'hat'], [/piano|gt|guit|bass|harp|vibes|marimba|pizz|banjo|koto|shamis|rhodes|ep |clav|nylon|steel|xylo|glock|slap|pop|picked|tp_|trumpet|flute|violin|clarinet/i, 'tone']] },
  'ufoai-sound': { uses: GAME },
  'scorched3d-data': { uses: [[/explosions\/(exp|large|medium|small|tank|thud|dirt|bhit|crunch|quake|meteor|napalm|thunder|shock)/, 'impact'], ...GAME] },
  'lugaru-data': { uses: [[/FootStep|BushRustle/, 'step'], [/Rabbit|Snarl|Bark|Growl|Hawk/, 'voice'], [/Music/, 'music'], [/Ambient|Wind/, 'ambience'], [/HeavyImpact|StaffB|StaffH|Thud|Land|WhooshHit|MetalHit|FleshStab\.|Clank|Broken|Break|Splatter|SwordStaff/, 'impact'], ...GAME] },
  'minetest-data': { uses: [[/footstep/, 'step'], [/dig_|break_glass|dug/, 'impact'], ...GAME] },
  'hedgewars-data': { uses: [[/\/\d[A-G]\.ogg/, 'tone'], [/Sounds\/(voices|hell_|hogchant|custom)/, 'voice'], ...GAME] },
  'wesnoth-1.16-data': { uses: [[/music/, null], [/(-hit-\d|-die|hit\.wav|laugh|groan|wail|hiss)/, 'voice'], [/miss/, 'other'], [/gunshot|thunderstick/, 'shot'], [/bow|sling|dart|crossbow/, 'other'], ...GAME] },
  'flare-game': { uses: GAME },
  'megaglest-data': { uses: [[/(_ack|_select|_die|_attack)\d*\./, 'voice'], ...GAME] },
  'freedroidrpg-data': { uses: GAME },
  'supertux-data': { uses: GAME },
  'nexuiz-data': { uses: GAME },
  'chromium-bsu-data': { uses: [[/music/, 'music'], [/boom|explo/i, 'impact']] },
  'alienblaster-data': { uses: [[/explosion/, 'impact'], [/shot/, 'shot'], [/choose|confirm/, 'other']] },
  'trigger-rally-data': { uses: [[/engine|wind/, 'ambience'], ...GAME] },
  'sonic-pi-samples': { uses: [[/cymbal|drum_splash|elec_(tick|triangle)/, 'hat'], [/perc_snap/, 'snare'], [/perc_impact|cineboom/, 'impact'], [/ambi_(drone|haunted|dark|soft)/, 'ambience'], [/loop_/, null], [/elec_(chime|ping|bell|blip|beep)|perc_bell/, 'other'], [/guit_em9|elec_twang|bass_(hit|woodsy)|ambi_piano/, 'tone'], ...DRUMS] },
  'teeworlds-data': { uses: GAME },
  'warzone2100-data': { uses: [[/(lrg|med|sml)can|mgun|chaingun|rocket|gauss|mortar|mlaunch|howitz/i, 'shot'], [/expl|richet|squish|fall/i, 'impact'], ...GAME] },
  'fillets-ng-data': { uses: [[/music/, 'music'], [/./, 'voice']] },
};

/** Whole packages that no training sound comes from. */
export const VALIDATION: Readonly<Record<string, Recipe>> = {
  'bzflag-data': { uses: GAME },
  'marsshooter-data': { uses: GAME },
  'warmux-data': { uses: GAME },
  'endless-sky-data': { uses: [[/~/, null], ...GAME] },
  freepats: { uses: [[/Drum_000.*(Tom_Low)/, 'kick'], [/Drum_000.*(Crash|Ride_[12]|Splash)/, 'hat'], [/Tone_000\/(0[0-4]\d|05\d|06[0-9]|07[0-4]|09[89]|10[4]|114)/, 'tone'], [/Tone_000/, null], ...DRUMS] },
  'singularity-music': { uses: [[/./, 'music']] },
  'naev-data': { uses: [[/voice|music/, null], [/(ion|mass|plasma|laser|neutron|seeker|missile|ripper|hail|autocannon|grenadefire|mace)\./, 'shot'], [/exp(lo|\d)|grenade\./, 'impact'], [/engine|afterburner|beam0/, 'ambience'], ...GAME] },
  'starfighter-data': { uses: [[/cyber_dance|jam|colossus|rise_of|silence|dimensions|through_space|androids|RE\./, 'music'], [/laser|plasma|missile|railjet/i, 'shot'], [/explode/, 'impact'], [/death/, 'voice'], ...GAME] },
  'atanks-data': { uses: [[/\/0\d\.wav/, 'shot'], [/\/1\d\.wav/, 'impact']] },
  'ufoai-music': { uses: [[/./, 'music']] },
  'asterisk-core-sounds-en-wav': { uses: [[/./, 'voice']] },
};

/** The game's own folder does not count: its name may say anything. */
export const useOf = (recipe: Recipe, path: string): Use =>
  recipe.uses.find(([pattern]) => pattern.test(path.replace(/^\/usr\/share\/(games\/)?[^/]+/, '')))?.[1] ?? null;
