package org.mnemex.publish;

/**
 * Who builds, as every manifest and catalogue says.
 *
 * @param installation identifies the installation, as its databases know it
 * @param process identifies one run of it
 * @param turn counts the runs that have written to this store; the highest is the one that may
 */
public record BuilderTurn(String installation, String process, long turn) {}
