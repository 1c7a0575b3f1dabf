package org.mnemex.client;

/**
 * A record that people opened after searching for some words.
 *
 * @param words the words, in lower case
 * @param key the record's key
 * @param opens how often it was opened
 * @param share its part of the opens after these words, 0 to 1, each weighted by how unlikely a
 *     result is to be seen at its place
 * @param grade the grade that this suggests for a scorecard, 1 to 3
 */
public record OpenedRecord(String words, String key, long opens, double share, int grade) {}
