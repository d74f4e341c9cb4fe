<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Intake;

use App\Jobs\Line;
use App\Kinds\Machines\Disks\FileSystemCheck;
use App\Kinds\Machines\Disks\MachineTree;
use App\Models\BackupSet;
use App\Models\SetSign;
use App\Sets\Points;
use App\Trees\Doubt\DoubtBook;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;
use Kaiseki\Core\UnableToRead;

/** Checks the file systems in a set of a machine after it was made: one that is not whole puts the set in doubt. */
final class CheckFileSystems implements ShouldQueue
{
    use Queueable;

    public function __construct(public readonly int $set)
    {
        $this->onQueue(Line::Checks->value);
    }

    public function handle(): void
    {
        $set = BackupSet::query()->with('workload')->find($this->set);
        if ($set === null) {
            return; // it was let go meanwhile
        }
        try {
            $checks = self::checks($set);
        } catch (UnableToRead) {
            return; // that it cannot be read is told where copies are read back
        }
        $wrong = self::of($checks, FileSystemCheck::WRONG);
        SetSign::query()->updateOrCreate(
            ['set_id' => $set->id, 'kind' => DoubtBook::FILE_SYSTEMS],
            ['doubts' => $wrong !== [], 'figures' => [], 'words' => mb_strcut(self::words($checks), 0, 1000)],
        );
        (new DoubtBook)->recount($set->workload);
    }

    /** @return array<array-key, FileSystemCheck> by volume */
    private static function checks(BackupSet $set): array
    {
        $points = new Points($set->workload);
        $checks = [];
        foreach ((new MachineTree($points, $points->sets[$set->id]))->volumes() as $volume) {
            $checks[$volume->name] = FileSystemCheck::of($volume);
        }

        return $checks;
    }

    /**
     * @param  array<array-key, FileSystemCheck>  $checks
     * @return array<array-key, FileSystemCheck>
     */
    private static function of(array $checks, string $result): array
    {
        return array_filter($checks, fn (FileSystemCheck $check): bool => $check->result === $result);
    }

    /** @param  array<array-key, FileSystemCheck>  $checks */
    private static function words(array $checks): string
    {
        $clean = array_keys(self::of($checks, FileSystemCheck::CLEAN));
        $said = $clean === [] ? [] : ['The file systems of '.implode(', ', $clean).' are whole, by the tools that are theirs.'];
        foreach (self::of($checks, FileSystemCheck::WRONG) as $volume => $check) {
            $said[] = "The file system of $volume is not whole: {$check->words}";
        }
        foreach (self::of($checks, FileSystemCheck::NOT_CHECKED) as $volume => $check) {
            $said[] = "That of $volume was not checked: {$check->words}.";
        }

        return $said === [] ? 'It holds no file system.' : implode(' ', $said);
    }
}
