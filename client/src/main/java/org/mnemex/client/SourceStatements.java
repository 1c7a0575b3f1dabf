package org.mnemex.client;

import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * Statements for a source's database.
 *
 * @param statements statements that Mnemex can run
 * @param left statements that an administrator of the database has to run first
 * @param run whether the statements were run
 * @param indexes for which they are
 * @param refused which statement the database refused to run, and why; null if none
 */
public record SourceStatements(
    String source,
    List<String> statements,
    List<String> left,
    boolean run,
    List<String> indexes,
    @Nullable String refused) {}
