package org.mnemex.client;

import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * A number and how it came about.
 *
 * @param what what the number is
 * @param matched whether the record has it; a part without says what the record lacks
 * @param how SUM, PRODUCT or FORMULA; null if there are no parts
 */
public record Explained(
    String what, double value, boolean matched, @Nullable String how, List<Explained> parts) {}
