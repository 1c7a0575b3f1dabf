/**
 * Our own records in SQLite through MyBatis: definitions, editions, quarantine. Start with {@link
 * DefinitionMapper}. Tables are made by the scripts under {@code db/migration}.
 */
@NullMarked
package org.mnemex.service.store;

import org.jspecify.annotations.NullMarked;
