package org.mnemex.service.store;

/**
 * A version of a definition.
 *
 * @param kind source, analyser, index or endpoint
 * @param version from 1; the highest is the current one
 * @param file name of the file that it came from
 * @param text the YAML as it was written
 * @param needs YAML of the analysers that an index uses, else empty
 * @param createdAt ISO 8601, UTC
 */
public record DefinitionRow(
    String kind,
    String name,
    int version,
    String file,
    String text,
    String needs,
    String createdAt) {}
