<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Standing;

/** How somebody wants a machine that stands to be settled. */
final readonly class SettleWish
{
    /**
     * @param  int|null  $limit  megabytes (10^6) a second at most
     * @param  array<string, string>  $storages  disk => storage to which it comes, where that was said
     * @param  string  $storage  to which the other disks come; '' for where they lie
     */
    public function __construct(public ?int $limit = null, public array $storages = [], public string $storage = '')
    {
    }
}
