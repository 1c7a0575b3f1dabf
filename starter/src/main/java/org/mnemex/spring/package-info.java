/**
 * Mnemex in an application with Spring Boot: a client from properties, its health, rows of a
 * database in the order of results, and records that are pushed when a transaction commits.
 */
@NullMarked
package org.mnemex.spring;

import org.jspecify.annotations.NullMarked;
