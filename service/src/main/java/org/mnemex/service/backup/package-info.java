/**
 * Backups while everything runs: the state of one moment is frozen with hard links and a copy of
 * our records, and callers fetch the files that they lack. After a restore, it is told which index
 * goes on from its position and which is filled again.
 */
@NullMarked
package org.mnemex.service.backup;

import org.jspecify.annotations.NullMarked;
