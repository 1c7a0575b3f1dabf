/**
 * More work than the service can do, and callers who behave badly. Start with {@link
 * org.mnemex.bench.overload.OverloadBench}.
 */
@NullMarked
package org.mnemex.bench.overload;

import org.jspecify.annotations.NullMarked;
