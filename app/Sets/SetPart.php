<?php

declare(strict_types=1);

namespace App\Sets;

use App\Models\BackupSet;
use App\Models\Copy;
use Illuminate\Support\Facades\DB;
use InvalidArgumentException;
use Kaiseki\Core\Archive\PieceDigests;

/** One file of a set: the only one, or a disk, a volume, a collection of the same moment. */
final readonly class SetPart
{
    private function __construct(
        public BackupSet $set,
        /** From 0. */
        public int $number,
        /** '' for the only one. */
        public string $name,
        public int $bytes,
        /** BLAKE2b-256 of the file as it was registered, hex; null where that is not known. */
        public ?string $digest,
    ) {
    }

    /** @return non-empty-list<self> in their order */
    public static function all(BackupSet $set): array
    {
        $parts = [];
        foreach (DB::table('set_parts')->where('set_id', $set->id)->orderBy('number')->get() as $row) {
            $parts[] = new self($set, $row->number, $row->name, $row->bytes, $row->digest);
        }

        return $parts === [] ? [new self($set, 0, '', $set->bytes, $set->digest)] : $parts;
    }

    public static function of(Copy $copy): self
    {
        foreach (self::all($copy->set) as $part) {
            if ($part->number === $copy->part) {
                return $part;
            }
        }
        throw new InvalidArgumentException("{$copy->set->name} has no part {$copy->part}.");
    }

    /**
     * Enters the parts of a set that has just been made, and of how many bytes it is.
     *
     * @param  non-empty-array<string, PieceDigests>  $parts  name => its file as it is
     */
    public static function enter(BackupSet $set, array $parts): void
    {
        $rows = [];
        foreach (array_keys($parts) as $number => $name) {
            $pieces = $parts[$name];
            $rows[] = [
                'set_id' => $set->id,
                'number' => $number,
                'name' => mb_substr((string) $name, 0, 200),
                'bytes' => $pieces->bytes,
                'digest' => bin2hex($pieces->digest),
            ];
            $pieces->write(SetFiles::pieces($set->id, $number));
        }
        DB::table('set_parts')->insert($rows);
        $set->update(['bytes' => array_sum(array_column($rows, 'bytes')), 'digest' => null]);
    }

    /** The digests of its pieces as it was registered, if they are at hand and its own. */
    public function pieces(): ?PieceDigests
    {
        $pieces = PieceDigests::read(SetFiles::pieces($this->set->id, $this->number));

        return $pieces !== null && bin2hex($pieces->digest) === $this->digest ? $pieces : null;
    }

    /** As it is called beside others: "the part sda of NAME", or the name of the set. */
    public function inWords(): string
    {
        return $this->name === '' ? $this->set->name : "the part {$this->name} of {$this->set->name}";
    }
}
