package org.mnemex.engine.read;

import java.util.List;
import java.util.Map;

/**
 * The stored part of a document.
 *
 * @param fields values of stored fields by name
 * @param record the stored record, as it was given
 */
public record StoredDocument(Map<String, List<Object>> fields, byte[] record) {}
