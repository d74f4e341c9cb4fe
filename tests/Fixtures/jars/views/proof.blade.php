<x-proof-page :evidence="$evidence" :sound="$sound" :key="$key" :signature="$signature">
    <x-slot:point></x-slot:point><x-slot:facts></x-slot:facts><x-slot:how>Taste it.</x-slot:how>
</x-proof-page>
