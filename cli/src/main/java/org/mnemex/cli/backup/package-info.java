/**
 * Backups as folders and archives: fetched from a service, checked, and put back into a data
 * folder.
 */
@NullMarked
package org.mnemex.cli.backup;

import org.jspecify.annotations.NullMarked;
