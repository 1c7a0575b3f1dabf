package org.mnemex.client;

import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * A key, without its secret.
 *
 * @param id short identifier, part of the key's text
 * @param name what people call it
 * @param right admin, read, write, search or node
 * @param state active, expired or revoked
 * @param indexes indexes that may be pushed to; {@code *} for all
 * @param endpoints endpoints that may be searched; {@code *} for all
 * @param filter a filter that every search must meet, or null
 * @param origins origins of pages that may use it; empty for any caller
 * @param networks networks that it may be used from; empty for all
 * @param perMinute the most calls in a minute; null for no limit
 * @param created when it was created, ISO 8601, UTC
 * @param expires when it stops working; null for never
 * @param lastUsed when it was last used, to the minute; null if never
 */
public record KeyEntry(
    String id,
    String name,
    String right,
    String state,
    List<String> indexes,
    List<String> endpoints,
    @Nullable String filter,
    List<String> origins,
    List<String> networks,
    @Nullable Integer perMinute,
    String created,
    @Nullable String expires,
    @Nullable String lastUsed) {}
