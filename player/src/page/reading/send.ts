/** Tells the server something; what it refuses stops the work. */
export async function send(path: string, body: BodyInit): Promise<void> {
  const response = await fetch(path, { method: "POST", body });
  if (!response.ok) throw new Error(`The server refused ${path}: ${response.status}.`);
}
