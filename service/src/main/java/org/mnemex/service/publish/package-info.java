/**
 * More than one machine: a builder publishes its editions, definitions and keys in a store, and
 * search nodes follow them.
 */
@NullMarked
package org.mnemex.service.publish;

import org.jspecify.annotations.NullMarked;
