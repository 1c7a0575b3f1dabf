package org.mnemex.publish.store;

/**
 * An object of a store.
 *
 * @param content its bytes; not to be changed
 * @param tag what the store calls this content of the object (RFC 9110, section 8.8.3)
 */
public record StoredObject(byte[] content, String tag) {}
