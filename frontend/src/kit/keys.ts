/** Every shortcut of the program: one place, so that "?" can list them and no two collide on a station. */
export const keys = {
  help: { keys: "shift+slash", label: "?", does: "Show this list", where: "Everywhere" },
  toPlan: { keys: "alt+1", label: "Alt 1", does: "Go to Plan", where: "Everywhere" },
  toShoot: { keys: "alt+2", label: "Alt 2", does: "Go to Shoot", where: "Everywhere" },
  toCut: { keys: "alt+3", label: "Alt 3", does: "Go to Cut", where: "Everywhere" },
  toFinish: { keys: "alt+4", label: "Alt 4", does: "Go to Finish", where: "Everywhere" },
  toDeliver: { keys: "alt+5", label: "Alt 5", does: "Go to Deliver", where: "Everywhere" },
  next: { keys: "n", label: "N", does: "Next shot", where: "Cut bench, Finish" },
  back: { keys: "b", label: "B", does: "Shot before", where: "Cut bench, Finish" },
  swap: { keys: "v", label: "V", does: "Before and after: swap the frame with the view", where: "Cut bench" },
  hundred: { keys: "h", label: "H", does: "100 % and back", where: "Cut bench" },
  looser: { keys: "comma", label: ",", does: "Backdrop match one looser", where: "Cut bench" },
  stricter: { keys: "period", label: ".", does: "Backdrop match one stricter", where: "Cut bench" },
  proposed: { keys: "p", label: "P", does: "Take the proposed backdrop match", where: "Cut bench" },
  keep: { keys: "enter", label: "Enter", does: "Keep the value for this shot", where: "Cut bench" },
  onWhite: { keys: "w", label: "W", does: "On white", where: "Cut bench" },
  onLoud: { keys: "l", label: "L", does: "On a loud colour", where: "Cut bench" },
  matte: { keys: "m", label: "M", does: "Matte", where: "Cut bench" },
  frame: { keys: "f", label: "F", does: "Frame", where: "Cut bench" },
  difference: { keys: "d", label: "D", does: "Difference from the backdrop frame", where: "Cut bench" },
  notWhite: { keys: "u", label: "U", does: "Mark all that is not white", where: "Finish" },
  blownOut: { keys: "o", label: "O", does: "Mark blown-out product", where: "Finish" },
} as const;

export type Shortcut = keyof typeof keys;
