<?php

declare(strict_types=1);

namespace Kaiseki\Core\Database;

use Iterator;

/**
 * The rows of a dump for several connections that load them at the same time: each INSERT goes to whichever asks next,
 * everything else (settings, USE, keys switched off and on) to all, before what comes after it. A dump's strings have no
 * line breaks as they are (mariadb-dump escapes them), so a statement ends at the first semicolon that ends a line.
 */
final class InsertShares
{
    private const PIECE = 1 << 17;

    private const ROWS = '/\A(?:--[^\n]*\n|\s+)*+(?:INSERT|REPLACE)\s/i';

    /** @var Iterator<string> */
    private readonly Iterator $source;

    private string $held = '';

    private int $searched = 0;

    /** @var list<string> statements that are for all, so far */
    private array $common = [];

    /**
     * @param  iterable<string>  $source  statements, in pieces of any size
     * @param  KnownStatements|null  $known  what may be among them; null for anything
     */
    public function __construct(iterable $source, private readonly ?KnownStatements $known = null)
    {
        $this->source = (fn () => yield from $source)();
    }

    /**
     * What one connection is to load; asked for piece by piece while others are.
     *
     * @return Iterator<string>
     *
     * @throws UnknownStatement
     */
    public function share(): Iterator
    {
        $told = 0;
        do {
            for (; $told < count($this->common); $told++) {
                yield $this->common[$told];
            }
            $statement = $this->next();
            if ($statement !== '' && $this->known !== null && ! $this->known->admits($statement)) {
                continue;
            }
            if (preg_match(self::ROWS, $statement) === 1) {
                for ($at = 0, $length = strlen($statement); $at < $length; $at += self::PIECE) {
                    yield substr($statement, $at, self::PIECE);
                }
            } elseif ($statement !== '') {
                $this->common[] = $statement;
            }
        } while ($statement !== '' || $told < count($this->common));
    }

    private function next(): string
    {
        while (($end = strpos($this->held, ";\n", $this->searched)) === false) {
            if (! $this->source->valid()) {
                [$last, $this->held, $this->searched] = [$this->held, '', 0];

                return $last;
            }
            $this->searched = max(0, strlen($this->held) - 1);
            $this->held .= $this->source->current();
            $this->source->next();
        }
        $statement = substr($this->held, 0, $end + 2);
        $this->held = substr($this->held, $end + 2);
        $this->searched = 0;

        return $statement;
    }
}
