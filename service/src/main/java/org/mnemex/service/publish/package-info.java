/**
 * More than one machine: a builder publishes its editions, definitions and keys in a store, and
 * search nodes follow them. Several builders may share the indexes; all but the first take its
 * definitions over.
 */
@NullMarked
package org.mnemex.service.publish;

import org.jspecify.annotations.NullMarked;
