import { useState } from "react";

/** What cut-outs lie on, on the wall: a lightness, or a colour of one's choosing. */
export const grounds = [
  { name: "white", word: "White", colour: "#ffffff" },
  { name: "light", word: "Light grey", colour: "#d0d0d0" },
  { name: "middle", word: "Mid grey", colour: "#777777" },
  { name: "dark", word: "Dark grey", colour: "#2a2a2a" },
  { name: "loud", word: "Loud", colour: "#26a0ee" },
] as const;

/** Kept from visit to visit. */
export function useGround(): [string, (colour: string) => void] {
  const [colour, setColour] = useState(() => localStorage.getItem("wall-ground") ?? "#26a0ee");
  return [
    colour,
    (next) => {
      localStorage.setItem("wall-ground", next);
      setColour(next);
    },
  ];
}
