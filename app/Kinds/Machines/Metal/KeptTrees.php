<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Metal;

use App\Instance;
use App\Kinds\Machines\Order\CannotBring;
use Illuminate\Support\Facades\File;
use Kaiseki\Core\Metal\TreeRecord;

/** What lies on the volumes of a machine whose medium waits, as it was brought there: by that it is known what changes next. */
final readonly class KeptTrees
{
    private const FOLDER = 'enrolments';

    private string $folder;

    public function __construct(Enrolment $of)
    {
        $this->folder = Instance::folder(self::FOLDER)."/{$of->id}";
    }

    /** @param  array<string, TreeRecord>  $records  volume => what lies on it now */
    public function keep(array $records): void
    {
        File::ensureDirectoryExists($this->folder, 0700);
        foreach ($records as $volume => $record) {
            $to = $this->file((string) $volume);
            $file = fopen("$to.new", 'wb') ?: throw CannotBring::because('What was brought cannot be kept in mind: is there room?');
            $record->copyTo($file);
            fclose($file);
            rename("$to.new", $to);
        }
    }

    public function record(string $volume): TreeRecord
    {
        $file = @fopen($this->file($volume), 'rb');

        return TreeRecord::kept($file ?: throw CannotBring::because("What was brought onto $volume before is not known any more."));
    }

    public function forget(): void
    {
        File::deleteDirectory($this->folder);
    }

    private function file(string $volume): string
    {
        return "{$this->folder}/".md5($volume);
    }
}
