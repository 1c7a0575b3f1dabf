package org.mnemex.service.definition;

import org.jspecify.annotations.Nullable;

/**
 * Which of a result's shown fields play a part that people see at once.
 *
 * @param title the field that names a result; null: its key does
 * @param subtitle the field that says more in a few words, or null
 * @param picture the field with the address of a picture, or null
 * @param link where a result leads, with {@code {field}} and {@code {key}} in it, or null
 */
public record Card(
    @Nullable String title,
    @Nullable String subtitle,
    @Nullable String picture,
    @Nullable String link) {
  /** Nothing is said of it. */
  public static final Card NONE = new Card(null, null, null, null);
}
