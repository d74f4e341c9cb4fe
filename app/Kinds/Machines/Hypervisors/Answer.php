<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Hypervisors;

use App\Models\Workload;
use Illuminate\Support\Facades\DB;

/** By what a machine that runs is told from another: it is asked for a page, and the answer holds what some files of its disks held. */
final readonly class Answer
{
    /**
     * @param  string  $asked  path of the page
     * @param  list<string>  $files  percent-encoded, as browse lists them
     */
    public function __construct(public string $asked, public array $files)
    {
    }

    public static function of(Workload $workload): ?self
    {
        $row = DB::table('machine_originals')->where('workload_id', $workload->id)->first();
        $files = $row === null ? null : json_decode((string) $row->answers, true);

        return $row === null || $row->asked === null ? null : new self(
            (string) $row->asked,
            array_values(array_map(strval(...), is_array($files) ? $files : [])),
        );
    }
}
