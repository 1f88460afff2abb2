/** What something is called in addresses, by its name: letters, figures and dashes alone. @param most how long at the most */
export function slugOf(name: string, most = 40): string {
  return name
    .normalize('NFD')
    .replace(/\p{M}/gu, '')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-/, '')
    .slice(0, most)
    .replace(/-$/, '')
}
