/**
 * Search nodes beside builders, as processes on this machine. Start with {@link
 * org.mnemex.bench.nodes.NodesBench} or {@link org.mnemex.bench.nodes.LargeBench}.
 */
@NullMarked
package org.mnemex.bench.nodes;

import org.jspecify.annotations.NullMarked;
