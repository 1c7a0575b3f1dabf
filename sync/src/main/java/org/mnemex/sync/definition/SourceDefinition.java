package org.mnemex.sync.definition;

import java.nio.file.Path;

/**
 * A connection to a database.
 *
 * @param name lower-case name
 * @param file the SQLite database file
 * @param mayPrepare whether journal table and triggers may be made without asking
 */
public record SourceDefinition(String name, Path file, boolean mayPrepare) {}
