<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files;

use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\Version;
use Kaiseki\Core\Files\Internal\Status;

/**
 * Undoes what a run did to its target, from its journal, also if it was killed half-way. What somebody has changed since
 * is left, and named.
 */
final class PutBack
{
    public int $removed = 0;

    public int $returned = 0;

    /** @var list<LeftOut> */
    public array $left = [];

    /** @param  array<array-key, string>  $items path => packed version */
    public function run(string $journal, FolderBelow $target, array $items, RestoreOrder $order): void
    {
        $lines = [...Journal::read($journal)];
        foreach (array_reverse($lines) as $line) {
            match ($line[0]) {
                Journal::PLACED => $this->take($target, $order, $items, $line[1], $line[2]),
                Journal::SET_ASIDE, Journal::RENAMED => $this->return($target, $line[1], $line[2]),
                default => null,
            };
        }
        $target->removeTree($order->staging());
        $this->removeEmpty($target, $order->setAside());
    }

    /** @param  array<array-key, string>  $items */
    private function take(FolderBelow $target, RestoreOrder $order, array $items, string $path, string $now): void
    {
        $status = $target->status($now);
        if ($status === null) {
            return;
        }
        if ($status->type === Status::FOLDER) {
            foreach ($target->names($now) as $name) {
                $this->take($target, $order, $items, EntryPath::join($path, $name), EntryPath::join($now, $name));
            }
            if (! $target->remove($now)) {
                $this->left[] = new LeftOut($now, 'something else is in it now', true);
            } else {
                $this->removed++;
            }

            return;
        }
        $packed = $items[$path] ?? null;
        $version = $packed === null ? null : Version::unpack($packed);
        $untouched = $version !== null && match ($status->type) {
            Status::FILE => $status->size === $version->size && $target->digest($now) === $version->digest,
            Status::SYMLINK => $target->readLink($now) === $version->linkTarget,
            default => true,
        };
        if (! $untouched) {
            $this->left[] = new LeftOut($now, $version === null ? 'it did not come from this run' : 'it was changed since', true);

            return;
        }
        $target->remove($now);
        $this->removed++;
    }

    private function return(FolderBelow $target, string $path, string $aside): void
    {
        if ($target->status($aside) === null) {
            return;
        }
        if (! $target->rename($aside, $path)) {
            $this->left[] = new LeftOut($path, "something stands there; what was there before is kept as \"$aside\"", true);

            return;
        }
        $this->returned++;
    }

    private function removeEmpty(FolderBelow $target, string $folder): void
    {
        foreach ($target->names($folder) as $name) {
            if ($target->status("$folder/$name")?->type === Status::FOLDER) {
                $this->removeEmpty($target, "$folder/$name");
            }
        }
        if ($target->names($folder) === []) {
            $target->remove($folder);
        }
    }
}
