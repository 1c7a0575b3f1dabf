/**
 * Administration over HTTP, under {@code /api}: definitions, what runs, records, analysers, events.
 * Start with {@link DefinitionController}.
 */
@NullMarked
package org.mnemex.service.admin;

import org.jspecify.annotations.NullMarked;
