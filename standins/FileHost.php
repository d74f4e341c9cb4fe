<?php

declare(strict_types=1);

namespace Kaiseki\StandIns;

use Kaiseki\Core\Instant;
use Kaiseki\Core\Protect\Clock;
use RuntimeException;

/** A file server in small: a folder tree, and a clock of its own that stands in a file beside it. */
final readonly class FileHost implements Clock
{
    /** @param  string  $folder holds `files`, the tree, and `clock`, an ISO 8601 moment */
    public function __construct(public string $folder)
    {
    }

    public function root(): string
    {
        return "{$this->folder}/files";
    }

    /** The host a tree belongs to; null if the tree is not one of a stand-in. */
    public static function of(string $root): ?self
    {
        return basename($root) === 'files' && is_file(dirname($root).'/clock') ? new self(dirname($root)) : null;
    }

    /**
     * The hosts whose folders lie in a folder.
     *
     * @return array<string, self> by name
     */
    public static function in(string $folder): array
    {
        $hosts = [];
        foreach (glob("$folder/*/clock") ?: [] as $clock) {
            $host = self::of(dirname($clock).'/files');
            if ($host !== null && is_dir($host->root())) {
                $hosts[basename(dirname($clock))] = $host;
            }
        }

        return $hosts;
    }

    /** The group of machines that it says it belongs to. */
    public function group(): string
    {
        $group = trim((string) @file_get_contents("{$this->folder}/group"));

        return preg_match('/^[\pL\pN][\pL\pN ._-]{0,59}$/Du', $group) === 1 ? $group : 'general';
    }

    public function setGroup(string $group): void
    {
        file_put_contents("{$this->folder}/group", "$group\n");
    }

    public function now(): Instant
    {
        if (! is_file("{$this->folder}/clock")) {
            throw new RuntimeException("The clock of the host in {$this->folder} cannot be read.");
        }

        return Instant::parse(trim((string) file_get_contents("{$this->folder}/clock")));
    }

    public function setClock(Instant $now): void
    {
        if (! is_dir($this->root())) {
            mkdir($this->root(), 0755, true);
        }
        file_put_contents("{$this->folder}/clock", $now->iso()."\n");
    }
}
