/**
 * The room that indexes take: {@link Compactions} gives back what deleted documents hold, {@link
 * SpaceReports} tells what the rest is for.
 */
@NullMarked
package org.mnemex.service.care;

import org.jspecify.annotations.NullMarked;
