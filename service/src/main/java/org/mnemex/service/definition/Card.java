package org.mnemex.service.definition;

import org.jspecify.annotations.Nullable;

/**
 * The roles of shown fields in a result.
 *
 * @param title the field that names a result; null if its key does
 * @param subtitle the field below the title, or null
 * @param picture the field with the address of a picture, or null
 * @param link where a result leads, with {@code {field}} and {@code {key}} as placeholders, or null
 */
public record Card(
    @Nullable String title,
    @Nullable String subtitle,
    @Nullable String picture,
    @Nullable String link) {
  /** Nothing is said of it. */
  public static final Card NONE = new Card(null, null, null, null);
}
