#version 450 core
// Marks only.
void main() {}
