<?php

declare(strict_types=1);

use App\Models\Role;
use App\Models\User;
use App\People\Password;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Hash;

/** Runs kaiseki:user with the password as a person would have typed it. */
function person(object $test, string $password, string $email, array $options = []): int
{
    putenv("KAISEKI_USER_PASSWORD=$password");
    try {
        return Illuminate\Support\Facades\Artisan::call('kaiseki:user', ['email' => $email, ...$options]);
    } finally {
        putenv('KAISEKI_USER_PASSWORD');
    }
}

it('makes people, and changes of them what it is told to and nothing else', function (): void {
    expect(
        person(
            $this, 'nine wet ropes', 'new@sorrelsound.example',
            ['--name' => 'Vera Holm', '--role' => 'auditor', '--group' => ['crew office'], '--zone' => 'Europe/Oslo'],
        ),
    )->toBe(0);
    $user = User::query()->where('email', 'new@sorrelsound.example')->sole();
    expect([$user->role, $user->workload_groups, $user->zone])->toBe([Role::Auditor, ['crew office'], 'Europe/Oslo']);
    $before = $user->getAttributes();
    expect(person($this, 'not asked for', 'new@sorrelsound.example', ['--zone' => 'UTC']))->toBe(0);
    $after = $user->refresh()->getAttributes();
    expect(array_keys(array_diff_assoc(array_diff_key($after, ['updated_at' => 1]), $before)))->toBe(['zone'])
        ->and(Hash::check('nine wet ropes', $after['password']))->toBeTrue();
    person($this, 'seven dry sails', 'new@sorrelsound.example', ['--new-password' => true]);
    expect(Hash::check('seven dry sails', (string) User::query()->where('email', 'new@sorrelsound.example')->value('password')))->toBeTrue()
        ->and($user->refresh()->role)->toBe(Role::Auditor);
    person($this, '', 'new@sorrelsound.example', ['--all-groups' => true]);
    expect($user->refresh()->workload_groups)->toBeNull();
    $wrongs = [
        ['--role' => 'king'], ['--zone' => 'Mars/Olympus'], ['--lock' => true, '--unlock' => true],
        ['--all-groups' => true, '--group' => ['x']],
    ];
    foreach ($wrongs as $wrong) {
        expect(person($this, 'nine wet ropes', 'no@sorrelsound.example', $wrong))->toBe(2);
    }
    expect(person($this, 'short', 'no@sorrelsound.example'))->toBe(2)
        ->and(person($this, 'nine wet ropes', 'no-address'))->toBe(2)
        ->and(User::query()->where('email', 'like', 'no%')->exists())->toBeFalse();
});

it('takes no password from the command line', function (): void {
    $command = resolve(Illuminate\Contracts\Console\Kernel::class)->all()['kaiseki:user'];
    expect(array_keys($command->getDefinition()->getOptions()))->not->toContain('password')
        ->and($command->getDefinition()->getOption('new-password')->acceptValue())->toBeFalse();
});

it('ends the sessions of whom it changed, and locks', function (): void {
    $user = $this->person(Role::Operator);
    $other = $this->person(Role::Operator);
    foreach ([$user, $other] as $one) {
        DB::table('sessions')->insert(['id' => "s{$one->id}", 'user_id' => $one->id, 'payload' => '', 'last_activity' => time()]);
    }
    person($this, '', $user->email, ['--role' => 'auditor']);
    expect(DB::table('sessions')->pluck('user_id')->all())->toBe([$other->id]);
    $signIn = fn () => $this->post('/sign-in', ['email' => $user->email, 'password' => 'tide-table-9']);
    person($this, '', $user->email, ['--lock' => true]);
    $signIn()->assertSessionHasErrors(['email' => 'This account is locked. Ask whoever administers Kaiseki.']);
    $this->assertGuest();
    person($this, '', $user->email, ['--unlock' => true]);
    $signIn()->assertRedirect('/');
});

it('refuses passwords that are tried first', function (string $password): void {
    expect(Password::unfit($password, 'ines@sorrelsound.example', 'Ines Varga'))->not->toBeNull();
})->with([
    'eleven chars' => 'elevenchars', 'repeated' => 'abcabcabcabcabc', 'a run' => '123456789012',
    'keys' => 'qwertyuiopasdf', 'backwards' => '210987654321', 'common and numbers' => 'password12345',
    'as it is written' => 'P4ssw0rd2026!', 'common twice' => 'passwordpassword',
    'two common' => 'dragonmonkey', 'own name' => 'varga-2026-!!', 'this program' => 'kaiseki202611',
]);

it('takes others', function (string $password): void {
    expect(Password::unfit($password, 'ines@sorrelsound.example', 'Ines Varga'))->toBeNull();
})->with(['nine wet ropes', 'tide-table-9', 'Zwölf Möwen über dem Sund', bin2hex('harbour')]);

it('counts tries by the account as the database finds it, however its address is written', function (): void {
    $user = User::query()->create([
        'name' => 'Åse', 'email' => 'aase@sorrelsound.example', 'role' => Role::Operator, 'password' => 'tide-table-9',
        'zone' => 'UTC',
    ]);
    $codes = [];
    foreach (['aase', 'AASE', 'áase', 'aâse', 'aasé', 'Ääse', 'aaśe'] as $i => $written) {
        $codes[] = $this->withServerVariables(['REMOTE_ADDR' => '192.0.2.7'])
            ->post('/sign-in', ['email' => "$written@sorrelsound.example", 'password' => "guess $i"])
            ->getStatusCode() === 302
            && str_starts_with((string) session('errors')?->first('email'), 'Too many') ? 'limited' : 'tried';
        session()->flush();
    }
    expect(User::query()->where('email', 'áase@sorrelsound.example')->value('id'))->toBe($user->id) // the database's own opinion
        ->and(array_count_values($codes))->toBe(['tried' => 5, 'limited' => 2]);
});

it('limits an account from many addresses too', function (): void {
    $user = $this->person(Role::Operator);
    $limited = 0;
    for ($i = 1; $i <= 24; $i++) {
        $this->withServerVariables(['REMOTE_ADDR' => "192.0.2.$i"])->post('/sign-in', ['email' => $user->email, 'password' => "guess $i"]);
        $limited += str_starts_with((string) session('errors')?->first('email'), 'Too many') ? 1 : 0;
        session()->flush();
    }
    expect($limited)->toBe(4);
});

it('does the same work whether there is somebody of an address or not', function (): void {
    $user = $this->person(Role::Operator);
    $hasher = new class(Hash::driver()) extends Illuminate\Hashing\BcryptHasher
    {
        /** @var list<string> */
        public array $costs = [];

        public function __construct(private readonly Illuminate\Contracts\Hashing\Hasher $own)
        {
            parent::__construct();
        }

        public function check($value, $hashedValue, array $options = []): bool
        {
            $this->costs[] = (string) password_get_info((string) $hashedValue)['options']['cost'];

            return $this->own->check($value, $hashedValue, $options);
        }

        public function make($value, array $options = []): string
        {
            return $this->own->make($value, $options);
        }
    };
    Hash::swap($hasher);
    foreach (['nobody@sorrelsound.example', $user->email] as $email) {
        $this->post('/sign-in', ['email' => $email, 'password' => 'a guess of mine'])
            ->assertSessionHasErrors(['email' => 'This address and password do not belong together.']);
    }
    expect($hasher->costs)->toHaveCount(2)->and(array_unique($hasher->costs))->toHaveCount(1);
});

it('answers only to names that are known', function (string $host, int $status): void {
    $this->get("http://$host/sign-in")->assertStatus($status);
    $response = $this->withHeaders(['X-Forwarded-Host' => 'evil.example'])->get('http://127.0.0.1/');
    expect((string) $response->headers->get('Location'))->not->toContain('evil.example');
})->with([
    ['127.0.0.1', 200], ['localhost:8480', 200], ['evil.example', 400], ['localhost.evil.example', 400],
    ['desk.sorrelsound.example', 400],
]);
