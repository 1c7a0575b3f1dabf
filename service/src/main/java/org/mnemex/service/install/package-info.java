/**
 * The steps from a file to a running definition: parse, check, plan, prepare, apply. Start with
 * {@link Installation}.
 *
 * <p>What runs is one immutable {@link Running}, swapped when definitions are applied, so that a
 * request sees one state from beginning to end. Invariant: definitions that cannot work are refused
 * before anything changes.
 */
@NullMarked
package org.mnemex.service.install;

import org.jspecify.annotations.NullMarked;
