const THIN = "\u202f";

/** 12345 → "12 345". */
export function count(value: number): string {
  return Math.round(value)
    .toString()
    .replace(/\B(?=(\d{3})+(?!\d))/g, THIN);
}

/** 48210 → "48k", 920 → "920". */
export function short(value: number): string {
  if (value >= 1e6) return `${(value / 1e6).toFixed(1)}M`;
  if (value >= 1e3) return `${Math.round(value / 1e3)}k`;
  return `${value}`;
}

/** Bytes with a unit. */
export function bytes(value: number): string {
  if (value < 1024) return `${value} B`;
  const units = ["KiB", "MiB", "GiB"];
  let size = value / 1024;
  let unit = 0;
  while (size >= 1024 && unit < 2) {
    size /= 1024;
    unit += 1;
  }
  return `${size < 10 ? size.toFixed(1) : Math.round(size)} ${units[unit]}`;
}

/** Bytes before and after in the unit of the larger: "248 → 171 KiB". */
export function inOneUnit(before: number, after: number): string {
  const units = ["B", "KiB", "MiB", "GiB"];
  const power = Math.min(Math.floor(Math.log2(Math.max(before, after, 1)) / 10), units.length - 1);
  const digits = (value: number) => {
    const size = value / 1024 ** power;
    return size < 10 && power > 0 ? size.toFixed(size < 1 ? 2 : 1) : `${Math.round(size)}`;
  };
  return `${digits(before)} → ${digits(after)} ${units[power]}`;
}

/** Three lengths in one unit, as "0.62 × 0.91 × 0.62 m" or "12 × 8.5 × 3 mm". */
export function dimensions(size: number[]): string {
  const [unit, factor] = unitOf(Math.max(...size, 0));
  return `${size.map((x) => digits(x * factor)).join(" × ")} ${unit}`;
}

/** The unit that suits a length in metres, and what metres are multiplied by to be in it. */
function unitOf(metres: number): [string, number] {
  if (metres >= 1000) return ["km", 1e-3];
  if (metres >= 0.1) return ["m", 1];
  return ["mm", 1000];
}

function digits(value: number): string {
  const size = Math.abs(value);
  return size >= 1000
    ? count(Number(value.toPrecision(3)))
    : size < 10
      ? value.toFixed(2)
      : size < 100
        ? value.toFixed(1)
        : value.toFixed(0);
}

/** Whether a tick of a logarithmic axis is one that gets its words. */
export function isPowerOfTen(value: number): boolean {
  const power = Math.log10(value);
  return Math.abs(power - Math.round(power)) < 1e-9;
}

/** Metres as millimetres with a sensible number of digits. */
function millimetres(metres: number): string {
  const mm = metres * 1000;
  return String(Number(mm.toFixed(mm < 0.1 ? 3 : mm < 10 ? 2 : mm < 100 ? 1 : 0)));
}

/** A change from `before` to `after` as "−61 %". */
export function change(before: number, after: number): string {
  if (!before) return "0 %";
  const percent = Math.round((after / before - 1) * 100);
  return `${percent < 0 ? "−" : percent > 0 ? "+" : "±"}${Math.abs(percent)} %`;
}

/** Seconds as "0.4 s" or "1 min 12 s". */
export function seconds(value: number): string {
  const whole = Math.round(value);
  return value < 59.95 ? `${value.toFixed(1)} s` : `${Math.floor(whole / 60)} min ${whole % 60} s`;
}

/** Seconds that are guessed, as "20 s", "3 min" or "1 h 5 min". */
export function roughly(value: number): string {
  const minutes = Math.ceil(value / 60);
  if (value <= 55) return `${Math.max(5 * Math.ceil(value / 5), 5)} s`;
  return minutes < 60 ? `${minutes} min` : `${Math.floor(minutes / 60)} h ${minutes % 60} min`;
}

/** "1 prop", "3 props". */
export function plural(number: number, word: string): string {
  return `${count(number)} ${word}${number === 1 ? "" : "s"}`;
}

/** A length in the unit that suits it: "0.42 mm", "17 mm", "0.62 m" or "1.3 km". */
export function length(value: number): string {
  return value < 0.1 ? `${millimetres(value)} mm` : metres(value);
}

/** A distance as "17 km", "12 m", "3.4 m" or "0.62 m". */
export function metres(value: number): string {
  if (value >= 1e3) return `${Number((value / 1e3).toPrecision(3))} km`;
  return `${value < 1 ? Number(value.toPrecision(2)) : toThree(value)} m`;
}

/** Three figures of a value: "8 210", "512" or "51.2". */
export function toThree(value: number): string {
  const rounded = Number(value.toPrecision(3));
  return value >= 100 ? count(rounded) : `${rounded}`;
}

/** Pixels of the game's view as "0.85 px", and no more than that they are many where they are. */
export function pixels(value: number): string {
  return value >= 100 ? "≥ 100 px" : `${value.toPrecision(2)} px`;
}

/** How many times, with so many decimals, and no more than that it is many where it is. */
export function factor(value: number, decimals: number): string {
  return value >= 100 ? "≥ 100" : value.toFixed(decimals);
}
