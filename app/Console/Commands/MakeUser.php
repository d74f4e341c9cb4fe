<?php

declare(strict_types=1);

namespace App\Console\Commands;

use App\Instance;
use App\Models\Duty;
use App\Models\Role;
use App\Models\User;
use App\People\Account;
use App\People\Password;
use Illuminate\Console\Command;

/** Makes a person who may sign in, or changes what it is told to of one, and nothing else. */
final class MakeUser extends Command
{
    protected $signature = 'kaiseki:user {email} {--name= : how the person is called}
        {--role= : operator, requester, approver, auditor or administrator; a new person is an operator without it}
        {--group=* : workload groups they may see, in place of those they saw} {--all-groups : they may see all}
        {--duty=* : what they may do beside their role, in place of what they might: law, to search for the law} {--no-duty : none of it}
        {--zone= : their time zone} {--new-password : asks for another password} {--lock : they cannot sign in until --unlock} {--unlock}';

    protected $description = 'Makes a person who may sign in, or changes one; a password is asked for, or comes from KAISEKI_USER_PASSWORD';

    public function handle(): int
    {
        $email = (string) $this->argument('email');
        $user = User::query()->where('email', $email)->first();
        $isNew = $user === null;
        $user ??= new User(['email' => $email, 'name' => $email, 'role' => Role::Operator, 'zone' => 'UTC']);
        $wrong = $this->wrong() ?? $this->change($user);
        if ($wrong !== null) {
            $this->error($wrong);

            return 2;
        }
        if ($isNew || $this->option('new-password')) {
            $password = $this->password();
            $unfit = Password::unfit($password, $email, $user->name);
            if ($unfit !== null) {
                $this->error($unfit);

                return 2;
            }
            $user->setAttribute('password', $password);
        }
        $told = Account::save($user, null);
        touch(Instance::folder('marks').'/has-users');
        $this->info($told.($user->locked_at === null ? '' : ' They are locked, and cannot sign in.'));

        return 0;
    }

    /** What cannot be of what was said; null if all of it can. */
    private function wrong(): ?string
    {
        [$zone, $role] = [$this->option('zone'), $this->option('role')];
        $isAddress = filter_var($this->argument('email'), FILTER_VALIDATE_EMAIL) !== false;

        return match (true) {
            ! $isAddress => 'The first word is an address, such as ines@sorrelsound.example.',
            $role !== null && Role::tryFrom((string) $role) === null => 'The role is one of '.
                implode(', ', array_column(Role::cases(), 'value')).
                '.',
            $zone !== null && ! in_array($zone, timezone_identifiers_list(), true) => "There is no zone \"$zone\".",
            array_diff((array) $this->option('duty'), array_column(Duty::cases(), 'value')) !== [] => 'A duty is one of '.
                implode(', ', array_column(Duty::cases(), 'value')).
                '.',
            $this->option('no-duty') && $this->option('duty') !== [] => 'Either --no-duty or --duty.',
            $this->option('lock') && $this->option('unlock') => 'Either --lock or --unlock.',
            $this->option('all-groups') && $this->option('group') !== [] => 'Either --all-groups or --group.',
            default => null,
        };
    }

    private function change(User $user): ?string
    {
        foreach (['name', 'zone', 'role'] as $option) {
            if ($this->option($option) !== null) {
                $user->setAttribute($option, $this->option($option));
            }
        }
        if ($this->option('group') !== []) {
            $user->workload_groups = array_values((array) $this->option('group'));
        } elseif ($this->option('all-groups')) {
            $user->workload_groups = null;
        }
        if ($this->option('duty') !== [] || $this->option('no-duty')) {
            $user->duties = array_values((array) $this->option('duty'));
        }
        if ($this->option('lock')) {
            $user->locked_at ??= now()->toImmutable();
        } elseif ($this->option('unlock')) {
            $user->locked_at = null;
        }

        return trim($user->name) === '' ? 'A person has a name.' : null;
    }

    /** Never from the command line, where everybody on this machine can read it. */
    private function password(): string
    {
        $password = getenv('KAISEKI_USER_PASSWORD');

        return $password === false ? (string) $this->secret('Password') : $password;
    }
}
