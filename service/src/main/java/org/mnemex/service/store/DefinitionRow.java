package org.mnemex.service.store;

/**
 * A version of a definition.
 *
 * @param kind source, analyser, index, endpoint or scorecard
 * @param version from 1; the highest is the current one
 * @param file name of the file that it came from
 * @param text the YAML as it was written
 * @param needs YAML of the analysers and the source that an index uses, else empty
 * @param author who applied it, as the caller said it; empty if that is not known
 * @param createdAt ISO 8601, UTC
 */
public record DefinitionRow(
    String kind,
    String name,
    int version,
    String file,
    String text,
    String needs,
    String author,
    String createdAt) {
  /** The same once more, as a newer version. */
  public DefinitionRow again(int newer, String by, String now) {
    return new DefinitionRow(kind, name, newer, file, text, needs, by, now);
  }
}
