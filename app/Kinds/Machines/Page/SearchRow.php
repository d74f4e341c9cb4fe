<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Page;

use App\Words;
use Carbon\CarbonImmutable;

/** A version of a file that was found in points of a machine. */
final readonly class SearchRow
{
    /**
     * @param  array<string, mixed>  $row  see SearchLook
     */
    public function __construct(private array $row)
    {
    }

    public function path(): string
    {
        return $this->row['shown'].($this->row['kind'] === 'folder' ? '/' : '');
    }

    public function size(): string
    {
        return $this->row['kind'] === 'file' ? Words::size($this->row['size']) : '';
    }

    public function changed(): CarbonImmutable
    {
        return CarbonImmutable::createFromTimestampUTC($this->row['changed']);
    }

    /** At which point it was so first. */
    public function first(): CarbonImmutable
    {
        return CarbonImmutable::createFromTimestampUTC($this->row['first']);
    }

    /** From which point on it was so no more; null if the newest has it. */
    public function until(): ?CarbonImmutable
    {
        return $this->row['until'] === null ? null : CarbonImmutable::createFromTimestampUTC($this->row['until']);
    }

    /** By which it is picked; null if no point that has it can be read. */
    public function version(): ?string
    {
        return $this->row['point'] === null ? null : "{$this->row['point']}:{$this->row['path']}";
    }
}
