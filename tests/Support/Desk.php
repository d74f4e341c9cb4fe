<?php

declare(strict_types=1);

namespace Tests\Support;

use App\Kinds\Files\Order\FilesSaid;
use App\Kinds\Files\Order\Worksheet;
use App\Models\Approval;
use App\Models\BackupSet;
use App\Models\Consent;
use App\Models\RecoveryRequest;
use App\Models\Right;
use App\Models\Role;
use App\Models\Store;
use App\Models\Target;
use App\Models\TargetRight;
use App\Models\User;
use App\Models\Workload;
use Illuminate\Database\Eloquent\Model;
use Tests\TestCase;

/** A desk in small: a workload with a live original, two sets of it, a request, and the people around it. */
final class Desk
{
    public readonly Archives $archives;

    public readonly string $live;

    public readonly User $operator;

    public readonly User $requester;

    public readonly RecoveryRequest $request;

    public readonly string $url;

    /** @var array{string, string} names of the sets */
    public readonly array $sets;

    /**
     * @param  callable(Archives): void  $first
     * @param  callable(Archives): void  $change  what is different in the second set
     */
    public function __construct(TestCase $test, callable $first, callable $change)
    {
        $this->archives = new Archives($test->scratch());
        $first($this->archives);
        $full = $this->archives->dump('full');
        $change($this->archives);
        $this->sets = [$full, $this->archives->dump('incr')];
        $test->kaiseki('adopt', $this->archives->folder, '--as=crew');
        $this->live = $test->scratch()->folder('hosts/crew/files');
        Workload::query()->update(['source' => $this->live, 'group' => 'crew office']);
        Store::query()->get()->each(fn (Store $store) => self::belongs($store, 'crew office'));
        $this->operator = $this->person(Role::Operator);
        $this->requester = $this->person(Role::Requester);
        $this->request = RecoveryRequest::query()
            ->create([
                'workload_id' => Workload::query()->value('id'),
                'requester_id' => $this->requester->id,
                'summary' => 'Something is gone',
                'reason' => 'It is needed',
                'wanted_at' => '2026-10-01 18:00:00',
                'due_at' => now()->addHour(),
            ])
            ->refresh();
        $this->url = "/requests/{$this->request->id}";
    }

    /** @param  list<string>|null  $groups */
    public function person(Role $role, ?array $groups = null): User
    {
        static $number = 0;
        $number++;

        return User::query()->create([
            'name' => "Desk person $number",
            'email' => "desk$number@sorrelsound.example",
            'role' => $role,
            'workload_groups' => $groups,
            'password' => 'tide-table-9',
            'zone' => 'Europe/Oslo',
        ]);
    }

    /** From now on a target belongs to these groups alone, and their operators may do everything with it. */
    public static function belongs(Target&Model $target, string ...$groups): void
    {
        TargetRight::of($target)->delete();
        foreach ($groups as $group) {
            TargetRight::give($target, $group, Role::Operator, Right::cases());
        }
    }

    /**
     * A yes on the page of an approval or a consent, which names what that page shows.
     *
     * @return array<string, string>
     */
    public static function yes(string $page): array
    {
        [, $which, $id] = explode('/', $page);
        $shown = $which === 'consents' ? Consent::query()->findOrFail($id)->fingerprint() : Approval::query()->findOrFail($id)->order;

        return ['do' => 'approve', 'seen' => $shown];
    }

    /** What the order is at this moment, as the page would show it. */
    public function order(): string
    {
        return (new Worksheet($this->request->refresh()))->fingerprint();
    }

    /** @param  list<string>  $paths */
    public function into(string $destination, array $paths, string $conflict = 'replace', ?string $folder = null): void
    {
        $this->say(
            fn (FilesSaid $said): FilesSaid => $said->select($paths)->with(destination: $destination, conflict: $conflict, folder: $folder),
        );
    }

    /** @param  callable(FilesSaid): FilesSaid  $change  to what was said of the order */
    public function say(callable $change): void
    {
        $change(FilesSaid::of($this->request))->keepOn($this->request)->save();
    }

    public function set(int $which): BackupSet
    {
        return BackupSet::query()->where('name', $this->sets[$which])->firstOrFail();
    }
}
