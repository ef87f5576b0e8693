import type { Random } from "./random";

/** The office, its huts and everybody who writes to it. All of them are made up. */
export const DOMAIN = "larchhuts.example";
export const OFFICE = "Hut office";

export const ALIASES = ["bookings", "wardens", "accounts", "press", "volunteers"] as const;
export type Alias = (typeof ALIASES)[number];

export interface Person {
  readonly name: string;
  readonly address: string;
}

export interface Hut {
  readonly name: string;
  readonly warden: Person;
  readonly beds: number;
  readonly height: number;
  readonly side: string;
  readonly water: string;
}

const hut = (name: string, warden: string, beds: number, height: number, side: string, water: string): Hut => ({
  name,
  warden: { name: warden, address: `${name.toLowerCase().replace(/ .*/, "")}@${DOMAIN}` },
  beds,
  height,
  side,
  water,
});

export const HUTS: readonly Hut[] = [
  hut("Larch Saddle", "Marek Dvorsky", 34, 2140, "south", "spring"),
  hut("Tarn Hut", "Aline Thoresen", 22, 1980, "east", "stream intake"),
  hut("Upper Corrie", "Bram Osei", 18, 2385, "north", "meltwater tank"),
  hut("Raven Step", "Sunniva Kjær", 26, 2210, "west", "cistern"),
  hut("Quarry Lodge", "Tomasz Wieland", 40, 1410, "valley", "mains"),
  hut("Whin Ridge", "Oona Patrescu", 12, 2470, "summit", "rain butts"),
];

const FIRST =
  "Ines Junipero Petra Dario Ottoline Kasimir Yevgenia Siobhan Marisol Teodor Anneli Bashir Clemence Dafydd Esi Florin Greta Hamid Ilse Joaquin Keiko Leandra Mirela Nils Oyelaran Paloma Quentin Ruxandra Søren Tamsin Ulrike Vasco Wanjiru Xiomara Yusuf Zdeněk Åsa Björn Chiara Étienne Fátima Gustav Hélène Łukasz Noémie Renée".split(
    " ",
  );
const LAST =
  "Okafor Ojeda Lindqvist Venn Brandt Holt Marsh Achebe Calloway Dembele Eriksen Farrow Grzelak Haldane Ibarra Jansma Kovács Lamprecht Mbeki Nakagawa Ostrander Pereira Quist Rautio Sandoval Tveit Ueda Vandermeer Whitlock Xenakis Yamada Zielinski Ashdown Bellweather Crane Dunmore Müller Núñez Sørli Gärtner Thévenet Šimek".split(
    " ",
  );
const MAIL = [
  "post.example",
  "mailbox.example",
  "fernmail.example",
  "quickpost.example",
  "lettera.example",
  "uni-norda.example",
  "briefkasten.example",
];

const plain = (text: string): string =>
  text
    .normalize("NFKD")
    .replace(/[^A-Za-z ]/g, "")
    .replaceAll("Ł", "L")
    .toLowerCase();

/** A guest: somebody met once or twice. */
export function guest(r: Random): Person {
  const first = r.pick(FIRST);
  const last = r.pick(LAST);
  const [f, l] = [plain(first) || "guest", plain(last) || "name"];
  const local = r.pick([
    `${f}.${l}`,
    `${f}${l.slice(0, 1)}`,
    `${l}.${f}`,
    `${f}_${l}${r.int(1, 89)}`,
    `${f}${r.int(60, 99)}`,
  ]);
  return { name: `${first} ${last}`, address: `${local}@${r.pick(MAIL)}` };
}

export interface Firm extends Person {
  readonly sells: readonly string[];
  readonly contact: string;
}

const firm = (name: string, address: string, contact: string, ...sells: string[]): Firm => ({
  name,
  address,
  contact,
  sells,
});

export const SUPPLIERS: readonly Firm[] = [
  firm(
    "Tolva Dry Goods",
    "invoices@tolva.example",
    "Hanne",
    "rice and lentils",
    "oats, 25 kg sacks",
    "coffee and dried milk",
    "pasta and tomato tins",
  ),
  firm(
    "Fennimore Co-op",
    "orders@fennimore.example",
    "Callum",
    "gas bottles, 11 kg",
    "firelighters",
    "cleaning stores",
  ),
  firm("Birchgate Timber", "yard@birchgate.example", "Ottokar", "split logs, 4 m³", "larch shingles", "handrail posts"),
  firm(
    "Corrie Air Lift",
    "dispatch@corrieair.example",
    "Dispatch desk",
    "two rotations to Upper Corrie",
    "one rotation to Whin Ridge",
    "waste flight from Raven Step",
  ),
  firm(
    "Nordlys Solar",
    "service@nordlys-solar.example",
    "Ebba",
    "battery check",
    "charge controller",
    "panel brackets",
  ),
  firm(
    "Hollin Laundry",
    "office@hollinlaundry.example",
    "Mrs Ansah",
    "blankets, 120 pieces",
    "pillow cases",
    "tea towels",
  ),
];

export const COMMITTEE: readonly Person[] = [
  { name: "Hut Committee", address: `committee@${DOMAIN}` },
  { name: "Ragnhild Moe", address: "ragnhild.moe@post.example" },
  { name: "Desmond Achterberg", address: "d.achterberg@mailbox.example" },
  { name: "Ilaria Conte", address: "ilaria.conte@fernmail.example" },
  { name: "Wyn Pritchard-Lowe", address: "wyn@lettera.example" },
];

export const VOLUNTEERS: readonly Person[] = [
  { name: "Tilda Brook", address: "tilda.brook@post.example" },
  { name: "Mohsen Rafiei", address: "mohsen.r@quickpost.example" },
  { name: "Agathe Sorel", address: "agathe@briefkasten.example" },
  { name: "Per Haukland", address: "per.haukland@uni-norda.example" },
  { name: "Nomvula Dlamini", address: "nomvula.d@fernmail.example" },
  { name: "Jory Penrose", address: "jory@mailbox.example" },
];

export const OUTFITTERS: readonly Person[] = [
  { name: "Ridge Notes", address: "letters@ridgenotes.example" },
  { name: "Alpine Deals Daily", address: "deals@alpinedeals.example" },
  { name: "Sole & Lace", address: "news@soleandlace.example" },
  { name: "Packhorse Outfitting", address: "hello@packhorse.example" },
];

export const GROUPS = [
  "a scout troop",
  "our walking club",
  "a school class",
  "four families",
  "a choir on its yearly outing",
  "the hill runners",
  "a geology course",
  "colleagues from the hospital",
  "a birthday party",
  "two rope teams",
];
export const DIETS = [
  "Four of us eat no meat.",
  "One is allergic to nuts, seriously so.",
  "Two need gluten-free bread.",
  "No special diets this time.",
  "We bring our own food and only need the stove.",
  "One child drinks no milk.",
];
export const ROUTES = [
  "from the quarry car park",
  "over the north ridge",
  "by the tarn path",
  "from the valley bus",
  "along the old mule track",
];

const MONTHS = [
  "January",
  "February",
  "March",
  "April",
  "May",
  "June",
  "July",
  "August",
  "September",
  "October",
  "November",
  "December",
];
const DAYS = ["Sunday", "Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday"];

export const dayName = (date: Date): string => DAYS[date.getUTCDay()]!;
export const longDate = (date: Date): string => `${date.getUTCDate()} ${MONTHS[date.getUTCMonth()]}`;
export const isoDay = (date: Date): string => date.toISOString().slice(0, 10);
export const addDays = (date: Date, days: number): Date => new Date(date.getTime() + days * 86_400_000);
/** ISO 8601 week number. */
export function weekOf(date: Date): number {
  const thursday = addDays(date, 3 - ((date.getUTCDay() + 6) % 7));
  return 1 + Math.floor((thursday.getTime() - Date.UTC(thursday.getUTCFullYear(), 0, 1)) / 604_800_000);
}
export const money = (amount: number): string => `€ ${amount.toFixed(2)}`;
export const ordinal = (n: number): string =>
  `${n}${n % 10 === 1 && n !== 11 ? "st" : n % 10 === 2 && n !== 12 ? "nd" : n % 10 === 3 && n !== 13 ? "rd" : "th"}`;
