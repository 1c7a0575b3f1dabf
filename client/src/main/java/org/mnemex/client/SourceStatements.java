package org.mnemex.client;

import java.util.List;

/**
 * Statements for a source's database.
 *
 * @param statements what Mnemex runs, if it is told to
 * @param left what an administrator of the database has to run first
 * @param run whether the statements were run
 */
public record SourceStatements(
    String source, List<String> statements, List<String> left, boolean run) {}
