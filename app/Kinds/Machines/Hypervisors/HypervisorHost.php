<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Hypervisors;

use App\Models\BelongsToGroups;
use App\Models\Target;
use App\Models\Workload;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Hypervisor\Hypervisor;
use Kaiseki\Core\Hypervisor\RemoteHypervisor;

/**
 * A hypervisor that is known here, and can be reached.
 *
 * @property int $id
 * @property string $name
 * @property string $site
 * @property string $folder of this machine: where it answers, and opens disks
 */
final class HypervisorHost extends Model implements Target
{
    use BelongsToGroups;

    protected $table = 'hypervisors';

    protected $guarded = [];

    public static function sort(): string
    {
        return 'hypervisor';
    }

    public function whereabouts(): string
    {
        return $this->folder;
    }

    public function originals(): array
    {
        return $this->workloads(null);
    }

    /** @return list<Workload> those that are one of its machines */
    public function workloads(?string $machine): array
    {
        $of = DB::table('machine_originals')->where('hypervisor_id', $this->id)->select('workload_id');
        $machine === null || $of->where('machine', $machine);

        return array_values(Workload::query()->whereIn('id', $of)->get()->all());
    }

    /** From now on it is known which of its machines a workload is. */
    public function holds(Workload $workload, string $machine): void
    {
        DB::table('machine_originals')->upsert(
            ['workload_id' => $workload->id, 'hypervisor_id' => $this->id, 'machine' => $machine],
            ['workload_id'],
            ['hypervisor_id', 'machine'],
        );
    }

    /** @return array{self, string}|null the hypervisor and machine that a workload is; null if that is not known */
    public static function of(Workload $workload): ?array
    {
        $row = DB::table('machine_originals')->where('workload_id', $workload->id)->first();
        $host = $row === null ? null : self::query()->find($row->hypervisor_id);

        return $row === null || $host === null ? null : [$host, (string) $row->machine];
    }

    /** A connection of its own, which ends with the object that is given. */
    public function open(): Hypervisor
    {
        return new RemoteHypervisor($this->name, $this->folder);
    }
}
