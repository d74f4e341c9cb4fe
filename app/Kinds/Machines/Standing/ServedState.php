<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Standing;

/** What was read of disks that are served. */
final class ServedState
{
    /**
     * @param  int  $clients  that read them now
     * @param  int  $bytes  that were given
     * @param  int  $refused  times that something could not be given
     * @param  string|null  $why  the last of them
     */
    public function __construct(public int $clients = 0, public int $bytes = 0, public int $refused = 0, public ?string $why = null)
    {
    }

    public function read(string $disk, int $from, int $length, ?string $failure): void
    {
        $this->bytes += $failure === null ? $length : 0;
        if ($failure !== null) {
            $this->refused++;
            $this->why = "the disk $disk at byte $from: $failure";
        }
    }

    /** @return array{clients: int, bytes: int, refused: int, why: string|null} */
    public function toArray(): array
    {
        return ['clients' => $this->clients, 'bytes' => $this->bytes, 'refused' => $this->refused, 'why' => $this->why];
    }

    /** @param  array<string, mixed>  $told */
    public static function fromArray(array $told): self
    {
        return new self((int) $told['clients'], (int) $told['bytes'], (int) $told['refused'], $told['why']);
    }
}
