/** Stands for every style sheet: classes have the names they were given. */
export default new Proxy<Record<string, string>>({}, { get: (_, name) => String(name) });
