<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Names;

use App\Models\Workload;
use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Collection;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Kaiseki\Core\Names\Addresses;
use Kaiseki\Core\Names\DomainName;
use Kaiseki\Core\Names\NameFailure;

/**
 * A name by which others reach a machine, wherever it is.
 *
 * @property int $id
 * @property int $workload_id
 * @property string $name
 * @property array<mixed> $leads_to as Addresses has it
 * @property CarbonImmutable $seen_at
 * @property-read Workload $workload
 * @property-read NameServerHost $server
 */
final class MachineName extends Model
{
    protected $guarded = [];

    protected function casts(): array
    {
        return ['leads_to' => 'array', 'seen_at' => 'immutable_datetime'];
    }

    /** @return BelongsTo<Workload, $this> */
    public function workload(): BelongsTo
    {
        return $this->belongsTo(Workload::class);
    }

    /** @return BelongsTo<NameServerHost, $this> */
    public function server(): BelongsTo
    {
        return $this->belongsTo(NameServerHost::class, 'name_server_id');
    }

    /** @return Collection<int, self> */
    public static function of(Workload $workload): Collection
    {
        return self::query()->where('workload_id', $workload->id)->with('server')->orderBy('name')->get();
    }

    /**
     * Others reach a machine by this name; what it leads to is looked up.
     *
     * @throws NameFailure if no name server is known for it, or that one does not answer
     */
    public static function known(Workload $workload, string $said): self
    {
        $name = DomainName::of($said);
        $server = NameServerHost::for($name)
            ?? throw NameFailure::because("no name server is known for {$name->name}: kaiseki name-server add");
        $leads = $server->open()->addresses($name);
        $other = self::query()->where('name', $name->name)->where('workload_id', '<>', $workload->id)->with('workload')->first();
        $other === null || throw NameFailure::because("{$name->name} is a name of {$other->workload->name}");

        return self::query()->updateOrCreate(
            ['name' => $name->name],
            ['workload_id' => $workload->id, 'name_server_id' => $server->id, 'leads_to' => $leads->toArray(), 'seen_at' => now()],
        );
    }

    /** As it was seen last. */
    public function leadsTo(): Addresses
    {
        return Addresses::fromArray($this->leads_to);
    }

    /** @throws NameFailure if its server does not answer */
    public function look(): Addresses
    {
        $leads = $this->server->open()->addresses(DomainName::of($this->name));
        $this->update(['leads_to' => $leads->toArray(), 'seen_at' => now()]);

        return $leads;
    }

    /** @throws NameFailure if somebody has changed it, or its server refuses */
    public function lead(Addresses $from, Addresses $to): void
    {
        $this->server->open()->lead(DomainName::of($this->name), $from, $to);
        $this->update(['leads_to' => $to->toArray(), 'seen_at' => now()]);
    }
}
