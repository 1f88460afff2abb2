export function told(file: string): string[]
