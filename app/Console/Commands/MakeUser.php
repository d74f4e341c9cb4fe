<?php

declare(strict_types=1);

namespace App\Console\Commands;

use App\Instance;
use App\Models\Role;
use App\Models\User;
use Illuminate\Console\Command;

final class MakeUser extends Command
{
    protected $signature = 'kaiseki:user {email} {--name= : how the person is called} {--role=operator : operator, requester, approver or auditor}
        {--group=* : workload groups they may see; all without it} {--zone=UTC : their time zone} {--password= : else it is asked for}';

    protected $description = 'Makes a person who may sign in, or changes one';

    public function handle(): int
    {
        $role = Role::tryFrom((string) $this->option('role'));
        $zone = (string) $this->option('zone');
        if ($role === null || ! in_array($zone, timezone_identifiers_list(), true)) {
            $this->error($role === null ? 'The role is operator, requester, approver or auditor.' : "There is no zone \"$zone\".");

            return 2;
        }
        $password = (string) ($this->option('password') ?? $this->secret('Password'));
        if (strlen($password) < 8) {
            $this->error('The password needs at least 8 characters.');

            return 2;
        }
        $email = (string) $this->argument('email');
        /** @var list<string> $groups */
        $groups = $this->option('group');
        User::query()->updateOrCreate(['email' => $email], [
            'name' => $this->option('name') ?? $email, 'role' => $role, 'workload_groups' => $groups === [] ? null : $groups, 'zone' => $zone, 'password' => $password,
        ]);
        touch(Instance::path('has-users'));
        $this->info("$email may sign in as {$role->value}.");

        return 0;
    }
}
