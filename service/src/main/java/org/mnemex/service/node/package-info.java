/**
 * Search nodes and their builder in touch: a node tells how it is and what was searched for ({@link
 * org.mnemex.service.node.Reporting}), the builder knows its nodes and tells them what is new
 * ({@link org.mnemex.service.node.SearchNodes}).
 *
 * <p>Invariant: nothing depends on it. Without the other side, a node looks into the store by
 * itself, and a builder publishes all the same.
 */
@NullMarked
package org.mnemex.service.node;

import org.jspecify.annotations.NullMarked;
