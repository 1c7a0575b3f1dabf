package org.mnemex.client;

/**
 * A version of a definition.
 *
 * @param kind source, analyser, synonyms, index, phrases, endpoint, curation or scorecard
 * @param file name of the file that it came from
 * @param text the YAML as it was written
 * @param author who applied it; empty if unknown
 * @param createdAt ISO 8601
 */
public record DefinitionEntry(
    String kind,
    String name,
    int version,
    String file,
    String text,
    String author,
    String createdAt) {}
