/** Holds a home; ends the process with a sentence where another holds it. Gives how to let go. */
export function holdHome(home: string, holder: string): Promise<() => void>
