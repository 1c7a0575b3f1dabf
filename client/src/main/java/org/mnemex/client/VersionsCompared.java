package org.mnemex.client;

import java.util.List;

/**
 * Two versions of a definition and how they differ.
 *
 * @param differences of an index: what each takes, and why
 * @param lines the texts compared, in the unified format (POSIX diff -u)
 */
public record VersionsCompared(
    int from, int to, List<PlannedChanges.Difference> differences, List<String> lines) {}
