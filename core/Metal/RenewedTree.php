<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Catalog\Version;
use Kaiseki\Core\Volume\FoundFile;

/** The same files, but that the machine's id is empty: what starts there makes one of its own (machine-id(5), "First boot semantics"). */
final class RenewedTree implements SentTree
{
    public const ID = 'etc/machine-id';

    /** Whether there was one. */
    public bool $isRenewed = false;

    public function __construct(private readonly SentTree $from)
    {
    }

    public function root(): FoundFile
    {
        return $this->from->root();
    }

    public function entries(): iterable
    {
        foreach ($this->from->entries() as $path => $file) {
            if ($path === self::ID && $file->version->kind === EntryKind::File) {
                $this->isRenewed = true;
                $empty = ['size' => 0, 'digest' => null, 'linkGroup' => 0, 'sparse' => false];
                $file = new FoundFile($file->node, new Version(...$empty + get_object_vars($file->version)), $file->extended);
            }
            yield $path => $file;
        }
    }

    public function content(FoundFile $file): iterable
    {
        return $file->version->size === 0 ? [] : $this->from->content($file);
    }
}
