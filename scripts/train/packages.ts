/**
 * The sounds that the model of kinds is trained on: free Debian packages, told apart by file name.
 * Only weights are shipped, never the sounds. Packages in VALIDATION are never trained on.
 */
import type { SoundClass } from '../../src/core/finding/signals/types.ts';

/** What a file is used as: a class, several shots in one file, a bed that other sounds lie over, or nothing. */
export type Use = SoundClass | 'burst' | 'tone' | 'step' | 'voice' | 'music' | 'ambience' | null;

export interface Recipe {
  /** First match of the path wins. */
  readonly uses: readonly (readonly [RegExp, Use])[];
}

/** Names that mean the same in all games. */
const GAME: Recipe['uses'] = [
  [/music|theme|soundtrack/i, 'music'],
  [/foot|steps?[-_/0-9.]|walk|run\d/i, 'step'],
  [
    /announcer|voice|teamshoot|player\/|button|instructor|speech|\/vo_|taunt|_ack|select|talk|laugh|scream|hurt|pain|\/die|death|cry|moan|growl|bark|grunt|attack\d*\.|merchant|shriek|hiss|_die|-die|-hit-\d|chant|ugh|ooff|memressp|cmndr/i,
    'voice',
  ],
  [
    /ambien|loop|wind[^u]|water|fire[0-9a-z]*\.|rain|steam|engine|machine|hum|generator|campfire|birds|drone|fan\d|crowd|cheer/i,
    'ambience',
  ],
  [/pick|spawn_|bnce|tutorial|menu/i, 'other'],
  [/no_?ammo|reload|empty|dry|swing|swish|whoosh|swoosh|miss|draw|sheath|fly|flight|idle/i, 'other'],
  [
    /explo|expl[-_\d]|boom|nuke|bomb|detonat|blast(?!er)|impact|hit|punch|thud|crash|collid|bump|slam|smash|break|thump|kick|bonk|ground|body|land\d|splat|crunch|hammer|club|mace|fist|slap|clank|metalhit|staff|axe|sword|shatter|bounce|stomp|ricochet|baseballbat|whip/i,
    'impact',
  ],
  [
    /gun|shot|shoot|[-_]fire[-_.\d]|fire\.|rifle|pistol|cannon|sniper|mortar|laser|blaster|uzi|musket|launch|turret|rocket|howitzer|shotty|electro|crylink|hagar|nex\d|grenade_fire|plasma|bazooka|missile|particle|thunderstick|snipe/i,
    'shot',
  ],
  [
    /pick|coin|chime|bell|menu|click|button|msg|message|beep|alarm|confirm|notify|collect|bonus|spawn|teleport|power|heal|jump|api|switch|grab|flag|ctf|drop|open|close|chest|spell|magic|potion|warp|gold|buy|level|life|tick|error|accept|select|hook|skid/i,
    'other',
  ],
];

const DRUMS: Recipe['uses'] = [
  [
    /ride|crash|splash|cymbal|bell|cow|clav|conga|shaker|bongo|timbale|agogo|triangle|wood|guiro|cuica|whistle|cabasa|maracas|vibra|metronome|click|tambour|tombour|stick|perc|tabla|loop|snap|roll|empty|scratch|high_q/i,
    null,
  ],
  [/kick|bass_?drum|\bbd_|drum_bass|drum_heavy|bassdrum/i, 'kick'],
  [/snare|\bsn_|clap|rim|elec_(filt|hi|lo|mid)?_?snare/i, 'snare'],
  [/hat|cymbal_closed|cymbal_pedal|hh/i, 'hat'],
];

/** Small arcade shooters of one maker, named alike. */
const ARCADE: Recipe['uses'] = [
  [/\.ogg$/, 'music'],
  [/shot\.wav|lance\.wav/, 'shot'],
  [/dst\.wav|dest\.wav|destro(y|i)e?d|explo|bomb\.wav/, 'impact'],
  [/extend|bonus|score|click|warning|beep|stuck|hit\.wav/, 'other'],
  [/./, null],
];

export const TRAINING: Readonly<Record<string, Recipe>> = {
  'hydrogen-data': { uses: [[/Ride|Crash|Splash|Cymbal|Bell/i, 'hat'], [/Tom/i, 'kick'], ...DRUMS] },
  'fluid-soundfont-gm': {
    uses: [
      [/kick|bass ?drum|\bbd\b/i, 'kick'],
      [/snare|\bsn\b|rim|clap/i, 'snare'],
      [/hi.?hat|\bhh\b|hihat|ride|crash/i, 'hat'],
      [
        /piano|gt|guit|bass|harp|vibes|marimba|pizz|banjo|koto|shamis|rhodes|ep |clav|nylon|steel|xylo|glock|slap|pop|picked|tp_|trumpet|flute|violin|clarinet/i,
        'tone',
      ],
    ],
  },
  'ufoai-sound': {
    uses: [
      [/bullet-(chaingun|heavyneedler|needler-|hmg|smg-1?5x|rifle-[38]x|shotgun-3x)|launcher-3x|combat-gun/, 'burst'],
      [
        /laser-blast|ptl-blast|plasma-(blade|hover)|explosion-(fire|smoke)|water|misc\/electro|irgoggles|medikit|flamer/,
        null,
      ],
      [
        /weapons\/(bullet-|ugv-|laser-|plasma-|ptl-|grenade-launcher|rocket-|electro-taser)|combat-(airlaser|airplasma|rocket\.)/,
        'shot',
      ],
      [/explo|combat-rocket-exp|\/impact\/|misc\/break|grenade-bounce|sword-hit/, 'impact'],
      ...GAME,
    ],
  },
  'scorched3d-data': {
    uses: [
      [/machinegun|tripleshot/, 'burst'],
      [/shoot\/(?!.*loop)/, 'shot'],
      [/explosions\/(exp|large|medium|small|xlarge|tank|thud|dirt|crunch|napalm|thunder)\.|shield\/hit/, 'impact'],
      [/explosions|battery|misc\/rocket/, null],
      ...GAME,
    ],
  },
  'lugaru-data': {
    uses: [
      [/FootStep|BushRustle|Skid/, 'step'],
      [/Rabbit|Snarl|Bark|Growl|Hawk/, 'voice'],
      [/Music/, 'music'],
      [/Ambient|Wind/, 'ambience'],
      [
        /HeavyImpact|StaffB|StaffH|Thud|Land|WhooshHit|MetalHit|FleshStab\.|Clank|Broken|Break|Splatter|SwordStaff/,
        'impact',
      ],
      [/Whoosh|Swish|Slice|Knife|Jump|Console/, 'other'],
      [/./, null],
    ],
  },
  'minetest-data': {
    uses: [
      [/footstep/, 'step'],
      [/break_glass|tnt_explode/, 'impact'],
      [/dig|dug|place_node|tool_breaks|gunpowder/, null],
      [/env_sounds|fire_|furnace/, 'ambience'],
      ...GAME,
    ],
  },
  'hedgewars-data': {
    uses: [
      [/\/\d[A-G]\.ogg/, 'tone'],
      [/Sounds\/(voices|hell_|hogchant|custom)/, 'voice'],
      [/minigun/, 'burst'],
      [/Sounds\/(gun|mortar|shotgunfire|landgun)\./, 'shot'],
      [/drillgun|lasersight|portalshot|ropeshot|sinegun|firepunch/, null],
      ...GAME,
    ],
  },
  'wesnoth-1.16-data': {
    uses: [
      [/music/, null],
      [/gunshot|thunderstick\./, 'shot'],
      [/(axe|club|explosion|fist|mace|staff|sword-1|mud-fist)\./, 'impact'],
      [/miss|bow|sling|dart|spear|throw|swish|tail|net|wardrums/, 'other'],
      [/(-hit|-die|laugh|groan|wail|hiss|growl|shriek|bite|horn|ugg)/, 'voice'],
      [/fire|flame|lightning|rumble|cave-in|water|hatchet|melee|torch/, null],
      ...GAME,
    ],
  },
  'flare-game': {
    uses: [
      [/_hit|_ment|_phys|die/, 'voice'],
      [/inventory|powers\/(shoot|arrow)/, 'other'],
      [/falling_rocks|powers|soundfx\/thunder/, null],
      ...GAME,
    ],
  },
  'megaglest-data': {
    uses: [
      [/(_ack|_select|_die|_attack)\d*\./, 'voice'],
      [/(catapult|golem|arrow|tower)_hit\d/, 'impact'],
      [/hit|anvil|_mine|_build|fall\d|machine_attack|harvest|behemoth_attack/, null],
      ...GAME,
    ],
  },
  'freedroidrpg-data': {
    uses: [
      [/bullets\/(?!Sword)/, 'shot'],
      [/Blast|Glass_Break/, 'impact'],
      [/First_Contact|Start_Attack|comments/, 'voice'],
      [/swing_then|Sword|sword/, null],
      ...GAME,
    ],
  },
  'supertux-data': {
    uses: [
      [/darthit|explosion|iceblock_bump|icecrash|kick\.|splat|stomp|thud|brick|squish/, 'impact'],
      [/shoot|dartfire|fire|thunder|lightning|mr_tree|pshit|flame/, null],
      ...GAME,
    ],
  },
  'nexuiz-data': {
    uses: [
      [/tutorial|announcer|player\//, 'voice'],
      [/foot/, 'step'],
      [/hook|strength_fire|porto|invshot|nexball|prefire|rocket_(det|mode)|fireball|tuba|outwater/, null],
      [/weapons\/\w*fire\d?\.|turrets\/phaser/, 'shot'],
      [/hagexp|ric\d|impact|gib|bounce|hitground/, 'impact'],
      [/misc\/(hit|typehit)|brass|casings|whoosh|steam_burst/, 'other'],
      ...GAME,
    ],
  },
  'chromium-bsu-data': {
    uses: [
      [/music/, 'music'],
      [/boom|explo/i, 'impact'],
      [/life|power/, 'other'],
    ],
  },
  'alienblaster-data': {
    uses: [
      [/explosion/, 'impact'],
      [/shot/, 'shot'],
      [/choose|confirm|alarm/, 'other'],
    ],
  },
  'trigger-rally-data': {
    uses: [
      [/sounds\/(engine|wind|gravel)/, 'ambience'],
      [/\/(ab|paula|tim)\//, 'voice'],
      [/./, null],
    ],
  },
  'sonic-pi-samples': {
    uses: [
      [/cymbal|drum_splash|elec_(tick|triangle)/, 'hat'],
      [/perc_snap/, 'snare'],
      [/perc_impact|cineboom/, 'impact'],
      [/ambi_(drone|haunted|dark|soft)/, 'ambience'],
      [/loop_/, null],
      [/elec_(chime|ping|bell|blip|beep)|perc_bell/, 'other'],
      [/guit_em9|elec_twang|bass_(hit|woodsy)|ambi_piano/, 'tone'],
      ...DRUMS,
    ],
  },
  'teeworlds-data': { uses: [[/foley_land/, 'impact'], [/ninja_attack/, null], ...GAME] },
  'warzone2100-data': {
    uses: [
      [/countdown|coltive|extra\/|tutorial|prox|nexus\/|t-|sequenceaudio/, 'voice'],
      [/mgbar|mgheavy|mgtower|asltmg|rapdcan/, 'burst'],
      [/(sml|med|lrg|hivel)can|gaussgun|mortar\.|rocket\.|plslsr|rotlsr/, 'shot'],
      [/explons\//, 'impact'],
      [/steam|powerhum|bldloop|tread|move|hover|oilpump/, 'ambience'],
      [/beep|radclik|weld|build\d/, 'other'],
      [/./, null],
    ],
  },
  'fillets-ng-data': {
    uses: [
      [/music/, 'music'],
      [/./, 'voice'],
    ],
  },
  'redeclipse-data': {
    uses: [
      [/music\/|theme|original/, 'music'],
      [
        /stormbolts|api|switch\.|jumppad|critical|signal|debris|damage|bounce|burn|flamer|sword|bzap|bzzt|energy|singe|transit|power\./,
        null,
      ],
      [/ambience/, 'ambience'],
      [/footstep|concstep|swimstep/, 'step'],
      [/announcer|voice|pain|death/, 'voice'],
      [/weapons\/(pistol|rifle|shotgun|smg|plasma|zapper|rocket|grenade)\/(primary|secondary)/, 'shot'],
      [/explode|thud|thwack|ricochet|player\/land/, 'impact'],
      [/tink|shell|splash|splosh|interface|sfx|reload|notify|beep|impulse|jump|whizz/, 'other'],
      [/./, null],
    ],
  },
  'cube2-data': {
    uses: [
      [/q009\/(pistol|rifle|shotgun|minigun|glauncher|rlauncher)/, 'shot'],
      [/explosion|explode|land\.|DoorSlam/, 'impact'],
      [/fs_sand/, 'step'],
      [/pain|die|grunt/, 'voice'],
      [/wind/, 'ambience'],
      [/itempick|weap|ammo|jump|teleport|itemspawn|quaddamage|tink|splash/, 'other'],
      [/./, null],
    ],
  },
  'widelands-data': {
    uses: [
      [/music/, 'music'],
      [/animals|farm|critters/, 'voice'],
      [/tavern|saw|mill|weav|spin/, 'ambience'],
      [/click|message|lobby|bubble/, 'other'],
      [/./, null],
    ],
  },
  barrage: {
    uses: [
      [/gunfire|autocannon/, 'burst'],
      [/expl/, 'impact'],
      [/click|highlight/, 'other'],
    ],
  },
  'netpanzer-data': {
    uses: [
      [/battle_mg/, 'burst'],
      [/(ho|ht|hv|lt|mt|mu)-fire/, 'shot'],
      [/expl_|hit_0/, 'impact'],
      [/unitsound|tankidle|hevidle/, 'ambience'],
      [/selected|move_|target_|attack|yessir|scream/, 'voice'],
      [/menu|powerup/, 'other'],
      [/./, null],
    ],
  },
  'powermanga-data': {
    uses: [
      [/music/, 'music'],
      [/_fire/, 'shot'],
      [/explosion/, 'impact'],
      [/gem|option|grade/, 'other'],
      [/./, null],
    ],
  },
  'gunroar-data': { uses: ARCADE },
  'noiz2sa-data': { uses: ARCADE },
  'parsec47-data': { uses: ARCADE },
  'torus-trooper-data': { uses: ARCADE },
  'rrootage-data': { uses: ARCADE },
  'titanion-data': { uses: ARCADE },
  'mu-cade-data': { uses: ARCADE },
  'tumiki-fighters-data': { uses: ARCADE },
  tuxfootball: {
    uses: [
      [/kick|bounce/, 'impact'],
      [/crowd/, 'ambience'],
      [/music|ingame/, 'music'],
      [/beep|whistle/, 'other'],
    ],
  },
  'foobillardplus-data': {
    uses: [
      [/smack|bomb/, 'impact'],
      [/ooh|applause/, 'ambience'],
      [/ballinhole/, 'other'],
    ],
  },
  'openclonk-data': { uses: [[/Music/, 'music']] },
  'trackballs-data': {
    uses: [
      [/\.ogg/, 'music'],
      [/crash/, 'impact'],
      [/click|flag|pill|savepoint|switch|warning/, 'other'],
      [/./, null],
    ],
  },
  'btanks-data': {
    uses: [
      [/(city|country|forest|horror|space|swamp)\.ogg/, 'music'],
      [/cannon\d|\/shot\.|machinegunner-bullet|dispersion-bullet/, 'shot'],
      [/explosion|boomerang-hit/, 'impact'],
      [/man-steps/, 'step'],
      [/engine|helicopter|submarine/, 'ambience'],
      [/laugh|deadman|scream|cow/, 'voice'],
      [/taking-item|klaxon|select|change|move\.|return|respawn|disembark/, 'other'],
      [/./, null],
    ],
  },
  'meritous-data': {
    uses: [
      [/mons\d+shot/, 'shot'],
      [/enemyhit|shieldhit/, 'impact'],
      [/crystal|tone|teleport|circuit/, 'other'],
      [/./, null],
    ],
  },
  'freedroid-data': {
    uses: [
      [/Fire_Bullet/, 'shot'],
      [/Blast_Sound|InfluExplosion|Collision_Sound/, 'impact'],
      [/Cry/, 'voice'],
      [/Paradroid/, 'music'],
      [/WhiteNoise|Got_?(Hit|Into)/, null],
      [/./, 'other'],
    ],
  },
  'wordwarvi-sound': {
    uses: [
      [/dtox|highscore|lucky|cornbread/, 'music'],
      [/burns|abducted|help|hohoho|ooof|spine|radar|bank_shot|scream|destiny|Source/, 'voice'],
      [/flak_gun|synthetic_gunshot|synthetic_laser/, 'shot'],
      [/stonebang|metalbang|bodyslam|explosion|clang|flak_hit|ground_smack|synthetic_bomb/, 'impact'],
      [/alarm/, 'other'],
      [/./, null],
    ],
  },
  'davegnukem-data': {
    uses: [
      [/laser\d?\.|singleshot|shoot_cg1/, 'shot'],
      [/explode|jump_landing/, 'impact'],
      [/cardflip|exit|jump|key|pickup|lightmag|wooeep/, 'other'],
      [/\.ogg/, 'music'],
      [/./, null],
    ],
  },
  'freeorion-data': {
    uses: [
      [/music/, 'music'],
      [/laser-blaster|missile-launch|fighters-launch/, 'shot'],
      [/multiple-pointfire|pulsed-fire/, 'burst'],
      [/explosion|missile-hit|missile-destruct/, 'impact'],
      [/phaser|fizzle|starlane/, null],
      [/./, 'other'],
    ],
  },
  'gl-117-data': {
    uses: [
      [/cannon1/, 'shot'],
      [/explode1|hit1/, 'impact'],
      [/beep|click|chaff/, 'other'],
      [/plane/, 'ambience'],
      [/./, null],
    ],
  },
  knavalbattle: {
    uses: [
      [/player\d-shoot/, 'shot'],
      [/./, null],
    ],
  },
  'val-and-rick-data': {
    uses: [
      [/shot\.wav|blaster\.wav/, 'shot'],
      [/dest\.wav/, 'impact'],
      [/crystal/, 'other'],
      [/\.ogg/, 'music'],
      [/./, null],
    ],
  },
  spacezero: {
    uses: [
      [/bfire/, 'shot'],
      [/explos|crash/, 'impact'],
      [/music/, 'music'],
      [/./, null],
    ],
  },
  'etw-data': {
    uses: [
      [/crowd|fondo/, 'ambience'],
      [/shoot\d?\.|shot\.|pass\.|palo|crash|ground/, 'impact'],
      [/cannon/, 'shot'],
      [/fischio|bandierina|replay|freeze|glue/, 'other'],
      [/dog|ouch|letsgo|hallelujah/, 'voice'],
      [/./, null],
    ],
  },
  'crossfire-client': {
    uses: [
      [/Gun-5|sci_fi_gun/, 'shot'],
      [/Explosion|MetalCrash|fist|phit2/, 'impact'],
      [/step_/, 'step'],
      [/FloorTom/, 'kick'],
      [/Laugh|ouch|pain|Puke/, 'voice'],
      [/gong|chord|drip|blip|boink|click|Whoosh|swish|miss|magic|potion/i, 'other'],
      [/./, null],
    ],
  },
  'trophy-data': {
    uses: [
      [/shot\.|shoot\./, 'shot'],
      [/crash/, 'impact'],
      [/goody|menu|selector|light/, 'other'],
      [/background/, 'music'],
      [/engine/, 'ambience'],
      [/./, null],
    ],
  },
  ksirk: {
    uses: [
      [/cannon/, 'shot'],
      [/crash/, 'impact'],
      [/./, null],
    ],
  },
  'supertransball2-data': {
    uses: [
      [/shot/, 'shot'],
      [/explosion|enemyhit/, 'impact'],
      [/switch|takeball|start/, 'other'],
      [/thrust/, 'ambience'],
      [/./, null],
    ],
  },
  'madbomber-data': {
    uses: [
      [/explosion/, 'impact'],
      [/confirm|select|oneup|can-shake/, 'other'],
      [/./, null],
    ],
  },
  solarwolf: {
    uses: [
      [/shoot/, 'shot'],
      [/explode|boxhit|klank/, 'impact'],
      [/\.ogg/, 'music'],
      [/chime|select|delete|incorrect|spring|flop|level/, 'other'],
      [/./, null],
    ],
  },
  'open-invaders-data': {
    uses: [
      [/shoot/, 'shot'],
      [/destroy/, 'impact'],
      [/./, 'voice'],
    ],
  },
  enemylines7: {
    uses: [
      [/projectile/, 'shot'],
      [/explosion/, 'impact'],
      [/./, null],
    ],
  },
  vectoroids: {
    uses: [
      [/bullet/, 'shot'],
      [/explode|ast\d/, 'impact'],
      [/extralife/, 'other'],
      [/./, null],
    ],
  },
  'searchandrescue-data': {
    uses: [
      [/crash|land_belly/, 'impact'],
      [/api|flap|flir|gear/, 'other'],
      [/engine|helicopter/, 'ambience'],
      [/./, null],
    ],
  },
  'excellent-bifurcation': {
    uses: [
      [/\/(shot|fire2?|blast2?)\./, 'shot'],
      [/\/(bang|bigbang|boom)\./, 'impact'],
      [/\/(drum|tom)\./, 'kick'],
      [/snare/, 'snare'],
      [/blip|blop|chirp|pop|powerup|start|tap|zap/, 'other'],
      [/./, null],
    ],
  },
  'brainparty-data': {
    uses: [
      [/gun\d/, 'shot'],
      [/explosion|soft_boom|glass_break|whack/, 'impact'],
      [/baa|meow/, 'voice'],
      [/\.wav/, 'other'],
      [/./, null],
    ],
  },
  'garden-of-coloured-lights-data': {
    uses: [
      [/\/(cannon|fire)\./, 'shot'],
      [/mgun/, 'burst'],
      [/bang/, 'impact'],
      [/blip|blop|level|food|whoosh/, 'other'],
      [/flute|piano|string|synth/, 'tone'],
      [/./, null],
    ],
  },
  'wing-data': {
    uses: [
      [/laser|torpedo|plasma/, 'shot'],
      [/minigun/, 'burst'],
      [/bullethit|enemydie/, 'impact'],
      [/menuitem/, 'other'],
      [/./, null],
    ],
  },
  'moon-lander-data': {
    uses: [
      [/Blaster/, 'shot'],
      [/explosion/, 'impact'],
      [/beep|honk|Bubbles/, 'other'],
      [/jet/, 'ambience'],
      [/eagle/, 'voice'],
      [/./, null],
    ],
  },
  'lbreakouthd-data': {
    uses: [
      [/\/shot\./, 'shot'],
      [/explosion|explball|energyhit/, 'impact'],
      [/dammit|damn|excellent|verygood/, 'voice'],
      [/reflect|brickhit|wall/, null],
      [/./, 'other'],
    ],
  },
  enemylines3: {
    uses: [
      [/laser/, 'shot'],
      [/explosion/, 'impact'],
      [/title/, 'music'],
      [/pick/, 'other'],
      [/./, null],
    ],
  },
  'dopewars-data': {
    uses: [
      [/gun|colt/, 'shot'],
      [/punch/, 'impact'],
      [/bye|die|losebitch|murmur/, 'voice'],
      [/jet|train/, 'ambience'],
      [/message/, 'other'],
      [/./, null],
    ],
  },
  'ceferino-data': {
    uses: [
      [/tiro/, 'shot'],
      [/explo|boom/, 'impact'],
      [/alarma|item|tecla|tic|toc/, 'other'],
      [/./, null],
    ],
  },
  'overgod-data': {
    uses: [
      [/\/(blast|launch)\./, 'shot'],
      [/bang/, 'impact'],
      [/drum/, 'kick'],
      [/cymbal/, 'hat'],
      [/\/(bell|chime|click|ting|menu|alarm|spawn|extra|shield)/, 'other'],
      [/flute|string|choir|brass/, 'tone'],
      [/./, null],
    ],
  },
  spacearyarya: {
    uses: [
      [/fire/, 'shot'],
      [/bomb|hit/, 'impact'],
      [/bgm|boss/, 'music'],
      [/./, null],
    ],
  },
  'pekka-kana-2-data': {
    uses: [
      [/tankshot/, 'shot'],
      [/explot|boxcrack/, 'impact'],
      [/bonus|counter|menu|openlock|switch|teleport|apple/, 'other'],
      [/bunny|chick|cow|crow|frog|hen|moo|pig|wolf|doodle/, 'voice'],
      [/./, null],
    ],
  },
  'sdl-ball-data': {
    uses: [
      [/shot/, 'shot'],
      [/expl-|doom-|glass-brick-break/, 'impact'],
      [/menuclick|powerup|highscore|appear|nextlevel/, 'other'],
      [/./, null],
    ],
  },
  'clanlib-doc': {
    uses: [
      [/\/gun\.|shootturret/i, 'shot'],
      [/explode|blowup|missilehit/, 'impact'],
      [/cheer/, 'ambience'],
      [/beep|powerup|namnam|start/, 'other'],
      [/./, null],
    ],
  },
  'castle-game-engine-doc': {
    uses: [
      [/\/(shoot|shot|flaunch)\./, 'shot'],
      [/kaboom/, 'impact'],
      [/footsteps/, 'step'],
      [/coin|menu|medkit|potion|power_up|positive|negative|save/, 'other'],
      [/hurt|rat_|drowning/, 'voice'],
      [/First_Step|Jungle|grove|fallout|sands|beating.*mp3/, 'music'],
      [/./, null],
    ],
  },
  komi: {
    uses: [
      [/_laser\.|_shoot/, 'shot'],
      [/oneup|powerup|eat|stick|pause|warning/, 'other'],
      [/./, null],
    ],
  },
  ktx: {
    uses: [
      [/coilgun/, 'shot'],
      [/\/\d\.wav|excelent|fight|flawless/, 'voice'],
      [/rune|flag/, 'other'],
      [/./, null],
    ],
  },
  'tecnoballz-data': {
    uses: [
      [/rtir_/, 'shot'],
      [/rexplo|rexeplo/, 'impact'],
      [/rmoney|rgadget|rmontre|rlife/, 'other'],
      [/./, null],
    ],
  },
  rockdodger: {
    uses: [
      [/bo+m\./, 'impact'],
      [/drip/, 'other'],
      [/./, null],
    ],
  },
  'berusky2-data': {
    uses: [
      [/Exploze|Hrom/, 'impact'],
      [/Pad_|Padklice|Tlacitko|Bubl|Kap/, 'other'],
      [/Crow|Krysa|Ptak|Drak/, 'voice'],
      [/\.ogg/, 'music'],
      [/Vitr/, 'ambience'],
      [/./, null],
    ],
  },
  'micropolis-data': {
    uses: [
      [/explosion/, 'impact'],
      [/monster|sorry|aaah|oop|uhuh|quack/, 'voice'],
      [/beep|bop|boing|cuckoo|build|query/, 'other'],
      [/traffic|computer|fire/, 'ambience'],
      [/./, null],
    ],
  },
  'torcs-data': {
    uses: [
      [/crash\d|boom/, 'impact'],
      [/engine|ferrari|porsche|viper/, 'ambience'],
      [/gear_change|locked/, 'other'],
      [/./, null],
    ],
  },
  'freedink-data': {
    uses: [
      [/bhit|punch/, 'impact'],
      [/bow|swing|sel1|open|secret|gold|stairs|save/, 'other'],
      [/grunt|scream|intro|bird/, 'voice'],
      [/\.ogg/, 'music'],
      [/./, null],
    ],
  },
  ardentryst: {
    uses: [
      [/\/(Hit|HitSlice|WoodHit)\./, 'impact'],
      [/STEP/, 'step'],
      [/PAIN|JUMP/, 'voice'],
      [/Chime|Msg|Swing|Ice\./, 'other'],
      [/AMB/, 'ambience'],
      [/LAND/, null],
      [/./, null],
    ],
  },
  'simutrans-pak64': {
    uses: [
      [/explosion|gavel/, 'impact'],
      [/steam|diesel|jet|seagulls|Water|desert|forest|tropic/, 'ambience'],
      [/cash|click|boing/, 'other'],
      [/./, null],
    ],
  },
  granatier: {
    uses: [
      [/\/(corpse_)?explode/, 'impact'],
      [/putbomb|break|clear/, 'other'],
      [/./, null],
    ],
  },
  'heroes-sound-effects': {
    uses: [
      [/explo/, 'impact'],
      [/bonus|coins|menu|life|lplus|lmoins|clock|power/, 'other'],
      [/foule/, 'ambience'],
      [/mort|oh\.|no\./, 'voice'],
      [/./, null],
    ],
  },
  geki3: {
    uses: [
      [/laser/, 'shot'],
      [/boom/, 'impact'],
      [/bgm|boss/, 'music'],
      [/pow|warning/, 'other'],
      [/./, null],
    ],
  },
  geki2: {
    uses: [
      [/laser/, 'shot'],
      [/bomb/, 'impact'],
      [/bgm|boss/, 'music'],
      [/pow|warning/, 'other'],
      [/./, null],
    ],
  },
  'seahorse-adventures': {
    uses: [
      [/explode/, 'impact'],
      [/coin|item|jump|powerup|bubble|capsule|pop|api/, 'other'],
      [/\.ogg/, 'music'],
      [/./, null],
    ],
  },
  // Music alone: heavy drums and guitars too, as montages are cut to.
  'fretsonfire-songs-muldjord': {
    uses: [
      [/song\.ogg/, 'music'],
      [/./, null],
    ],
  },
  'fretsonfire-songs-sectoid': {
    uses: [
      [/song\.ogg/, 'music'],
      [/./, null],
    ],
  },
  'hyperrogue-music': {
    uses: [
      [/music\//, 'music'],
      [/./, null],
    ],
  },
  'asc-music': { uses: [[/\.mp3/, 'music']] },
  'planetblupi-music-ogg': { uses: [[/\.ogg/, 'music']] },
  'extremetuxracer-data': {
    uses: [
      [/music\//, 'music'],
      [/./, null],
    ],
  },
  'zaz-data': {
    uses: [
      [/mus\d/, 'music'],
      [/./, null],
    ],
  },
  'pushover-data': {
    uses: [
      [/\.ogg/, 'music'],
      [/./, null],
    ],
  },
  'a7xpg-data': {
    uses: [
      [/bgm/, 'music'],
      [/./, null],
    ],
  },
  'colobot-common-sounds': {
    uses: [
      [/music\//, 'music'],
      [/./, null],
    ],
  },
  'xmoto-data': {
    uses: [
      [/Musics\//, 'music'],
      [/./, null],
    ],
  },
  'lincity-ng-data': {
    uses: [
      [/music\//, 'music'],
      [/./, null],
    ],
  },
};

/** Whole packages that no training sound comes from. */
export const VALIDATION: Readonly<Record<string, Recipe>> = {
  'bzflag-data': {
    uses: [
      [/fire|laser/, 'shot'],
      [/boom|explosion|ricochet/, 'impact'],
      [/steamroller/, 'ambience'],
      [/flag|jump|message|teamgrab|teleport|bounce|land|pop|lock/, 'other'],
      [/./, null],
    ],
  },
  'marsshooter-data': {
    uses: [
      [/toon\/(laser|particle|sniper)\./, 'shot'],
      [/Explode|[ls]hip\w*Collide|ballPlanetCollide|planetCollide/i, 'impact'],
      [/Collide/, null],
      ...GAME,
    ],
  },
  'warmux-data': {
    uses: [
      [/m16\./, 'burst'],
      [/weapons\/(gun|shotgun|cluzooka_shot)\./, 'shot'],
      [/bomb_falling|airhammer|suicide/, null],
      [/_exp|explosion|collision|ricoche|baseball|cluzooka_hit|hitting_ground|grenade_bounce|slap/, 'impact'],
      ...GAME,
    ],
  },
  'endless-sky-data': {
    uses: [
      [/~|bombardment|missile/, null],
      [/blaster|particle|proton|pulse|repeater|plasma|rocket\./, 'shot'],
      ...GAME,
    ],
  },
  freepats: {
    uses: [
      [/Drum_000.*(Tom_Low)/, 'kick'],
      [/Drum_000.*(Crash|Ride_[12]|Splash)/, 'hat'],
      [/Tone_000\/(0[0-4]\d|05\d|06[0-9]|07[0-4]|09[89]|10[4]|114)/, 'tone'],
      [/Tone_000/, null],
      ...DRUMS,
    ],
  },
  'singularity-music': { uses: [[/./, 'music']] },
  'naev-data': {
    uses: [
      [/voice|music|outfit|compression/, null],
      [/(ion|mass|plasma|laser|neutron|seeker|missile|ripper|hail|autocannon|grenadefire|mace)\./, 'shot'],
      [/exp(lo|\d)|grenade\./, 'impact'],
      [/engine|afterburner|beam0/, 'ambience'],
      ...GAME,
    ],
  },
  'starfighter-data': {
    uses: [
      [/railjet/, null],
      [/cyber_dance|jam|colossus|rise_of|silence|dimensions|through_space|androids|RE\./, 'music'],
      [/laser|plasma|missile/i, 'shot'],
      [/explode/, 'impact'],
      [/death/, 'voice'],
      ...GAME,
    ],
  },
  'atanks-data': {
    uses: [
      [/\/0\d\.wav/, 'shot'],
      [/\/1\d\.wav/, 'impact'],
    ],
  },
  'ufoai-music': { uses: [[/./, 'music']] },
  'asterisk-core-sounds-en-wav': { uses: [[/./, 'voice']] },
};

/** The game's own folder does not count: its name may say anything. */
export const useOf = (recipe: Recipe, path: string): Use =>
  recipe.uses.find(([pattern]) => pattern.test(path.replace(/^\/usr\/share\/(games\/)?[^/]+/, '')))?.[1] ?? null;
