package org.mnemex.engine.document;

import java.util.List;
import java.util.Map;

/**
 * What is indexed for one record.
 *
 * @param key the record's key, unique in the index, not empty
 * @param fields values by field name, of the class that {@link
 *     org.mnemex.engine.schema.FieldType#valueClass()} says; absent means no value
 * @param record the stored record, opaque to the engine
 * @param hash hash of the record's content, for comparison with the source
 */
public record Document(String key, Map<String, List<Object>> fields, byte[] record, long hash) {}
