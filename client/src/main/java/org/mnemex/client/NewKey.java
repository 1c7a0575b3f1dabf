package org.mnemex.client;

/**
 * A new key.
 *
 * @param key the key
 * @param secret the key's text, which is answered only once
 */
public record NewKey(KeyEntry key, String secret) {}
