/**
 * Measurements, each beside a baseline in the same run. Start with {@link GardenBench}.
 *
 * <p>A baseline is the plainest code that does the least anybody must do for the same outcome.
 * Figures are medians and high percentiles; the machine's other work is part of them.
 */
@NullMarked
package org.mnemex.bench;

import org.jspecify.annotations.NullMarked;
