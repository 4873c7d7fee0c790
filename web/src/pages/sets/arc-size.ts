/** How large the picture of a set is, in its own units, and the line of marks below it. */
export const [WIDTH, HEIGHT, MARK] = [1000, 120, 6];
