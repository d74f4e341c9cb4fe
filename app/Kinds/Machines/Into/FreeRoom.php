<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Into;

/** What is free on a file system. */
final readonly class FreeRoom
{
    /**
     * @param  int  $block  bytes of a block
     * @param  bool  $isFine  whether it keeps parts of seconds
     */
    public function __construct(public int $block, public int $blocks, public int $inodes, public bool $isFine)
    {
    }
}
